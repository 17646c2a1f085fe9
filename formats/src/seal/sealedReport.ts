import { fails, holds, noted, type SealCheck } from '@prandel/core';
import { UnreadableError } from '../problem.ts';
import { readSeal, sealText, type Seal } from './sealDocument.ts';
import { plainSha256, sha256Text, type Sha256 } from './sha256.ts';
import { signatureCheck } from './verifyPackage.ts';

const OPEN = '<script type="application/json" id="prandel-seal">';
const CLOSE = '</script>';

/** Where the seal of a report goes; what is digested is the report with this place empty. */
export const SEAL_PLACE = `${OPEN}${CLOSE}`;

/** SHA-256 of a report with the place of its seal empty. @throws UnreadableError when there is no such place */
export function reportDigest(html: string, sha256: Sha256 = plainSha256): string {
  const { before, after } = parts(html);
  return sha256([new TextEncoder().encode(`${before}${SEAL_PLACE}${after}`)]);
}

/** The report with its seal in its place. "<" is written as JSON allows it, so that nothing in it ends the element. */
export function withSeal(html: string, seal: Seal): string {
  const { before, after } = parts(html);
  return `${before}${OPEN}${sealText(seal).replaceAll('<', '\\u003c')}${CLOSE}${after}`;
}

/**
 * Checks a sealed report: signature and digest. Its verdicts rest on pulls that it does not hold.
 * @throws UnreadableError when it is no report with a seal
 */
export function verifyReport(html: string, sha256: Sha256 = plainSha256) {
  const { own } = parts(html);
  if (own.trim() === '')
    throw new UnreadableError('This report bears no seal. Seal its job, then take the report from there.');
  const seal = readSeal(own);
  const checks: SealCheck[] = [
    signatureCheck(seal),
    seal.report.sha256 === reportDigest(html, sha256) ? holds('report') : fails('report'),
    noted('verdicts-elsewhere'),
  ];
  return { seal, sealSha256: sha256Text(sealText(seal)), checks };
}

/** Whether a file is a page and not a package. */
export const looksLikeReport = (bytes: Uint8Array): boolean =>
  /^\s*<!doctype html/i.test(new TextDecoder().decode(bytes.subarray(0, 64)));

function parts(html: string): { before: string; own: string; after: string } {
  const at = html.indexOf(OPEN);
  const end = at < 0 ? -1 : html.indexOf(CLOSE, at);
  if (at < 0 || end < 0 || html.indexOf(OPEN, end) >= 0)
    throw new UnreadableError('This page has no place for a seal, so it is no sealed report.');
  return { before: html.slice(0, at), own: html.slice(at + OPEN.length, end), after: html.slice(end + CLOSE.length) };
}
