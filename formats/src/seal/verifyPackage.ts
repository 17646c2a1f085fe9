import { fails, holds, noted, type Job, type SealCheck, type SealedVerdict } from '@prandel/core';
import { brokenRow, CHAIN_START, type EvidenceRow } from '../evidence/chain.ts';
import { readEvents } from '../evidence/readEvents.ts';
import { readPackage } from '../jobPackage/readPackage.ts';
import type { PackageFiles } from '../jobPackage/packageFiles.ts';
import { UnreadableError } from '../problem.ts';
import { loggedDigests, pullFactsDigest, pullSamplesDigest } from './pullDigests.ts';
import { readSeal, SEAL_PATH, sealText, signedText, type Seal } from './sealDocument.ts';
import { plainSha256, sha256Text, type Sha256 } from './sha256.ts';
import { signatureHolds } from './signature.ts';

/** What came of checking a package. */
export interface Verified {
  /** Null for a package without one. */
  readonly seal: Seal | null;
  /** SHA-256 of the seal, by which a later one names it. */
  readonly sealSha256: string | null;
  readonly job: Job;
  readonly checks: readonly SealCheck[];
}

export interface VerifyWith {
  /** The verdicts of a job with their figures as printed, in the units of those that are compared with it. */
  readonly judge: (job: Job, like: readonly SealedVerdict[]) => readonly SealedVerdict[];
  readonly sha256?: Sha256;
}

/**
 * Checks everything that a package says of itself (docs/job-package.md, seal): signature, every file's digest, the log's chain,
 * length and head, every pull against its event, and the verdicts, which are made anew from the pulls.
 * @throws UnreadableError when it is no package
 */
export function verifyPackage(all: PackageFiles, { judge, sha256 = plainSha256 }: VerifyWith): Verified {
  const files = withoutFolder(all);
  const { job } = readPackage(files);
  const bytes = files.get(SEAL_PATH);
  const seal = bytes ? readSeal(new TextDecoder().decode(bytes)) : null;
  const log = logChecks(files, seal);
  const checks = [
    ...(seal ? [signatureCheck(seal), ...resourceChecks(seal, files, sha256)] : [noted('no-seal')]),
    ...log.checks,
    ...(log.rows ? pullChecks(job, log.rows, sha256) : []),
    ...(seal ? [...verdictChecks(seal.verdicts, judge(job, seal.verdicts)), noted('report-elsewhere')] : []),
  ];
  return { seal, sealSha256: seal && sha256Text(sealText(seal)), job, checks };
}

/** Checks of a log and its pulls alone, for a package that is read for another purpose; only what does not hold. */
export function brokenEvidence(all: PackageFiles, job: Job, sha256: Sha256 = plainSha256): SealCheck[] {
  const files = withoutFolder(all);
  const bytes = files.get(SEAL_PATH);
  let seal: Seal | null;
  try {
    seal = bytes ? readSeal(new TextDecoder().decode(bytes)) : null;
  } catch {
    return [fails('signature')];
  }
  const log = logChecks(files, seal);
  return [
    ...(seal ? [signatureCheck(seal), ...resourceChecks(seal, files, sha256)] : []),
    ...log.checks,
    ...(log.rows ? pullChecks(job, log.rows, sha256) : []),
  ].filter((c) => c.state === 'fails');
}

export function signatureCheck(seal: Seal): SealCheck {
  const message = new TextEncoder().encode(signedText(seal));
  return signatureHolds(message, seal.signature, seal.publicKey)
    ? holds('signature', { shop: seal.shop, publicKey: seal.publicKey })
    : fails('signature', { shop: seal.shop, publicKey: seal.publicKey });
}

function resourceChecks(seal: Seal, files: PackageFiles, sha256: Sha256): SealCheck[] {
  const listed = new Map(seal.resources.map((r) => [r.path, r.sha256]));
  const wrong: SealCheck[] = [];
  for (const [path, digest] of listed) {
    const bytes = files.get(path);
    if (!bytes) wrong.push(fails('resource-missing', { path }));
    else if (sha256([bytes]) !== digest) wrong.push(fails('resource-changed', { path }));
  }
  for (const path of files.keys())
    if (path !== SEAL_PATH && !listed.has(path)) wrong.push(fails('resource-added', { path }));
  return wrong.length > 0 ? wrong : [holds('resources', { files: listed.size })];
}

function logChecks(files: PackageFiles, seal: Seal | null): { checks: SealCheck[]; rows: EvidenceRow[] | null } {
  const bytes = files.get('events.csv');
  if (!bytes) {
    const cut = seal && seal.log.events > 0;
    return {
      checks: [cut ? fails('log-head', { events: 0, sealed: seal.log.events }) : noted('no-log')],
      rows: null,
    };
  }
  let rows: EvidenceRow[];
  try {
    rows = readEvents(bytes);
  } catch (error) {
    if (!(error instanceof UnreadableError)) throw error;
    return { checks: [fails('log-chain', { row: 1, why: error.message })], rows: null };
  }
  const broken = brokenRow(rows);
  const head = rows.at(-1)?.hash ?? CHAIN_START;
  const checks = [
    broken ? fails('log-chain', { row: broken.n, why: broken.why }) : holds('log-chain', { events: rows.length }),
  ];
  if (seal)
    checks.push(
      seal.log.events === rows.length && seal.log.head === head
        ? holds('log-head', { events: rows.length, head })
        : fails('log-head', { events: rows.length, sealed: seal.log.events }),
    );
  return { checks, rows };
}

/** Every pull against the digest that the log holds last for it. */
function pullChecks(job: Job, rows: readonly EvidenceRow[], sha256: Sha256): SealCheck[] {
  const logged = loggedDigests(rows);
  if (logged.size === 0) return [noted('pull-unlogged', { pulls: job.pulls.length })];
  const found: SealCheck[] = [];
  let without = 0;
  for (const pull of job.pulls) {
    const own = logged.get(pull.id);
    if (!own) {
      without += 1;
      continue;
    }
    if (own.samples !== pullSamplesDigest(pull, sha256)) found.push(fails('pull-samples', { pull: pull.id }));
    if (own.facts !== pullFactsDigest(pull)) found.push(fails('pull-facts', { pull: pull.id }));
  }
  const there = new Set(job.pulls.map((p) => p.id));
  for (const pull of logged.keys()) if (!there.has(pull)) found.push(fails('pull-missing', { pull }));
  // A pull that came after the log began to keep digests bears one: without it, it was put in past the log.
  if (without > 0) found.push(noted('pull-unlogged', { pulls: without }));
  return found.some((c) => c.state === 'fails')
    ? found
    : [holds('pulls', { pulls: job.pulls.length - without }), ...found];
}

/** The figures of a seal against those that the pulls give now. */
export function verdictChecks(sealed: readonly SealedVerdict[], made: readonly SealedVerdict[]): SealCheck[] {
  const key = (v: SealedVerdict) => `${v.candidate}/${v.baseline}/${v.measure}`;
  const figures = (v: SealedVerdict) =>
    JSON.stringify([v.verdict, v.estimate, v.low, v.high, v.unit, v.percent, v.lowPercent, v.highPercent]);
  const own = new Map(made.map((v) => [key(v), v]));
  const wrong = sealed.filter((v) => {
    const now = own.get(key(v));
    return !now || figures(now) !== figures(v);
  });
  if (wrong.length === 0 && sealed.length === made.length) return [holds('verdicts', { verdicts: sealed.length })];
  if (wrong.length === 0)
    return [fails('verdict-differs', { candidate: '', sealed: sealed.length, made: made.length })];
  return wrong.map((v) => {
    const now = own.get(key(v));
    return fails('verdict-differs', {
      ...{ candidate: v.candidate, measure: v.measure },
      sealed: spoken(v),
      made: now ? spoken(now) : '',
    });
  });
}

function spoken(v: SealedVerdict): string {
  return v.estimate === null ? v.verdict : `${v.verdict} ${v.estimate} (${v.low} to ${v.high}) ${v.unit ?? ''}`.trim();
}

function withoutFolder(all: PackageFiles): PackageFiles {
  if (all.has('datapackage.json')) return all;
  const at = [...all.keys()].find((p) => /^[^/]+\/datapackage\.json$/.test(p));
  if (!at) return all;
  const prefix = at.slice(0, -'datapackage.json'.length);
  return new Map([...all].filter(([p]) => p.startsWith(prefix)).map(([p, b]) => [p.slice(prefix.length), b]));
}
