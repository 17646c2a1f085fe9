import { TextDecoder, TextEncoder } from 'node:util';

/** As much of a request as the client hands on: what is sent, and where. */
class SentRequest {
  readonly method: string;
  constructor(
    readonly url: string,
    readonly init: { readonly method?: string; readonly body?: string } = {},
  ) {
    this.method = init.method ?? 'GET';
  }
  text(): Promise<string> {
    return Promise.resolve(this.init.body ?? '');
  }
}

/** What every browser has and jsdom lacks. Loaded before each test file; elsewhere it is there already. */
const lacking = globalThis as { TextEncoder?: unknown; TextDecoder?: unknown; Request?: unknown };
lacking.TextEncoder ??= TextEncoder;
lacking.TextDecoder ??= TextDecoder;
lacking.Request ??= SentRequest;

if (!Blob.prototype.text)
  Blob.prototype.text = function (this: Blob) {
    return new Promise((resolve, reject) => {
      const reader = new FileReader();
      reader.onload = () => resolve(reader.result as string);
      reader.onerror = () => reject(reader.error!);
      reader.readAsText(this);
    });
  };
