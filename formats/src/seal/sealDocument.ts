import type { SealedVerdict } from '@prandel/core';
import { part, type Json } from '../jobPackage/members.ts';
import { UnreadableError } from '../problem.ts';
import { canonicalJson } from './canonicalJson.ts';

/** Where the seal lies in a package. */
export const SEAL_PATH = 'seal.json';
export const SEAL_VERSION = 1;

/**
 * What a shop signs: which files, which log, which figures. The signature is Ed25519 over the canonical JSON of the document
 * without `signature` (RFC 8032, RFC 8785); keys and signatures are base64.
 */
export interface Seal {
  readonly sealVersion: number;
  readonly sealedAt: string;
  readonly shop: string;
  readonly by: string;
  readonly engine: { readonly name: string; readonly version: string };
  /** Every file of the package but the seal, sorted by path. */
  readonly resources: readonly { readonly path: string; readonly sha256: string }[];
  readonly log: { readonly events: number; readonly head: string };
  readonly verdicts: readonly SealedVerdict[];
  readonly report: { readonly sha256: string };
  /** SHA-256 of the seal that this one stands in place of. */
  readonly supersedes: string | null;
  readonly publicKey: string;
  readonly signature: string;
}

/** The text that is signed. */
export function signedText({ signature: _, ...rest }: Seal): string {
  return canonicalJson(rest);
}

/** `seal.json` as it lies in a package. */
export function sealText(seal: Seal): string {
  return canonicalJson(seal);
}

const HEX = /^[0-9a-f]{64}$/;

/**
 * A seal as it was written, unknown members kept: the signature covers them too.
 * @throws UnreadableError when it is no seal, or one of a newer version
 */
export function readSeal(text: string): Seal {
  let value: unknown;
  try {
    value = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    throw new UnreadableError(`The seal is not valid JSON (${(error as Error).message}).`);
  }
  const seal = part(value);
  const version = seal.sealVersion;
  if (typeof version !== 'number') throw new UnreadableError('The seal has no sealVersion, so it is no seal.');
  if (version > SEAL_VERSION)
    throw new UnreadableError(
      `The seal was made by a newer version (seal ${version}); this one reads seal ${SEAL_VERSION}. Update first.`,
    );
  const wrong = wrongMember(seal);
  if (wrong) throw new UnreadableError(`The seal's "${wrong}" is missing or not what it should be.`);
  return value as Seal;
}

function wrongMember(seal: Json): string | null {
  const texts = ['sealedAt', 'shop', 'by', 'publicKey', 'signature'];
  const text = texts.find((name) => typeof seal[name] !== 'string');
  if (text) return text;
  const { resources, verdicts, supersedes } = seal;
  const log = part(seal.log);
  const engine = part(seal.engine);
  if (typeof engine.name !== 'string' || typeof engine.version !== 'string') return 'engine';
  const digest = (r: unknown) => typeof part(r).path === 'string' && HEX.test(String(part(r).sha256));
  if (!Array.isArray(resources) || !resources.every(digest)) return 'resources';
  if (!Number.isInteger(log.events) || !HEX.test(String(log.head))) return 'log';
  if (!Array.isArray(verdicts) || !verdicts.every((v) => typeof part(v).verdict === 'string')) return 'verdicts';
  if (!HEX.test(String(part(seal.report).sha256))) return 'report';
  return supersedes === null || (typeof supersedes === 'string' && HEX.test(supersedes)) ? null : 'supersedes';
}
