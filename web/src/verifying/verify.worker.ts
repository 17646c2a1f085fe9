import { judgeJob, type SealCheck } from '@prandel/core';
import {
  looksLikeReport,
  UnreadableError,
  unzipHere,
  verifyPackage,
  verifyReport,
  type Seal,
} from '@prandel/formats/seal';
import { sealedVerdicts, unitsOfSealed } from '@prandel/presentation';

/** What came of checking one file; `problem` where it could not be read. */
export type CheckedFile =
  | { readonly seal: Seal | null; readonly checks: readonly SealCheck[]; readonly title: string | null }
  | { readonly problem: string };

addEventListener('message', ({ data }: MessageEvent<ArrayBuffer>) => {
  postMessage(checked(new Uint8Array(data)));
});

function checked(bytes: Uint8Array): CheckedFile {
  try {
    if (looksLikeReport(bytes)) {
      const { seal, checks } = verifyReport(new TextDecoder().decode(bytes));
      return { seal, checks, title: null };
    }
    const { seal, checks, job } = verifyPackage(unzipHere(bytes), {
      judge: (own, like) => sealedVerdicts(judgeJob(own), unitsOfSealed(like)),
    });
    return { seal, checks, title: `${job.id}, ${job.title}` };
  } catch (error) {
    if (error instanceof UnreadableError) return { problem: error.message };
    return { problem: `It could not be checked: ${error instanceof Error ? error.message : String(error)}` };
  }
}
