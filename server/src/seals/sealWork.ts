import { createPrivateKey, sign } from 'node:crypto';
import { ENGINE_VERSION, judgePrepared, type Job, type RecordedPart, type SharedPage } from '@prandel/core';
import {
  brokenEvidence,
  makeSeal,
  nodeSha256,
  reportDigest,
  SEAL_PATH,
  sealText,
  sha256Text,
  UnreadableError,
  withSeal,
  writePackage,
  zip,
  type EvidenceRow,
  type PackageExtras,
} from '@prandel/formats';
import { customerPage, sealCheckWords, sealedVerdicts } from '@prandel/presentation';
import { preparedFrom } from '../frames/madeFrames.ts';
import type { JobFrames } from '../frames/pullFrames.ts';
import { reportHtml, unitsOf, type ReportFor } from '../reports/reportHtml.ts';
import type { SealingKey } from './shopKeys.ts';

/** Everything that a seal is made from. */
export interface SealInput {
  /** With its samples. */
  readonly job: Job;
  readonly framed: Pick<JobFrames, 'frames' | 'samples'>;
  readonly extras: PackageExtras | undefined;
  /** The log with the event of this sealing as its last row. */
  readonly log: readonly EvidenceRow[];
  readonly recorded: readonly RecordedPart[];
  readonly reader: ReportFor;
  readonly key: SealingKey;
  readonly supersedes: string | null;
  readonly sealedAt: string;
  /** Address under which the seal can be checked. */
  readonly checkAt: string;
}

/** A sealed job, ready to be stored. */
export interface Sealed {
  readonly package: Uint8Array;
  readonly report: Uint8Array;
  readonly seal: string;
  readonly sha256: string;
  readonly page: SharedPage;
}

/**
 * Seals a job: its package, its report, its verdicts.
 * @throws UnreadableError when there is no verdict to seal, or the log does not hold
 */
export async function sealJob(input: SealInput): Promise<Sealed> {
  const { job, framed, extras, log, recorded, reader, key, supersedes, sealedAt, checkAt } = input;
  const files = writePackage(job, extras, log);
  const broken = brokenEvidence(files, job, nodeSha256);
  if (broken.length > 0)
    throw new UnreadableError(
      `The job cannot be sealed: its log does not hold. ${broken.slice(0, 3).map(sealCheckWords).join(' ')}`,
    );
  const judgement = judgePrepared(job, preparedFrom({ job, frames: framed.frames }));
  if (!judgement.verdicts.some((v) => v.gain !== null))
    throw new UnreadableError(
      'There is no verdict to seal: make at least two counted pulls of the baseline and of a setup to compare.',
    );
  const units = unitsOf(reader.units);
  const head = log.at(-1)!.hash;
  const html = reportHtml({ job, ...framed }, reader, recorded, {
    ...{ publicKey: key.publicKey, head, sealedAt, by: reader.name, checkAt },
  });
  const privateKey = createPrivateKey(key.privateKeyPem);
  const seal = makeSeal({
    ...{ files, log, reportSha256: reportDigest(html, nodeSha256), sha256: nodeSha256 },
    sign: (message) => sign(null, message, privateKey),
    facts: {
      ...{ sealedAt, shop: reader.shop, by: reader.name, supersedes, publicKey: key.publicKey },
      engine: { name: 'prandel', version: String(ENGINE_VERSION) },
      verdicts: sealedVerdicts(judgement, units),
    },
  });
  const text = sealText(seal);
  files.set(SEAL_PATH, new TextEncoder().encode(text));
  return {
    package: await zip(files),
    report: new TextEncoder().encode(withSeal(html, seal)),
    ...{ seal: text, sha256: sha256Text(text) },
    page: customerPage(job, judgement, units),
  };
}
