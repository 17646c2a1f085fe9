import { TextDecoder, TextEncoder } from 'node:util';

/** What every browser has and jsdom lacks. Loaded before each test file; elsewhere it is there already. */
const lacking = globalThis as { TextEncoder?: unknown; TextDecoder?: unknown };
lacking.TextEncoder ??= TextEncoder;
lacking.TextDecoder ??= TextDecoder;
