/** Sealing and checking: what runs in a browser as it does on a server. */
export * from './sha256.ts';
export * from './canonicalJson.ts';
export * from './sealDocument.ts';
export * from './makeSeal.ts';
export * from './sealedReport.ts';
export * from './signature.ts';
export * from './pullDigests.ts';
export * from './verifyPackage.ts';
export { unzipHere } from '../jobPackage/unzipHere.ts';
export { UnreadableError } from '../problem.ts';
export type { PackageFiles } from '../jobPackage/packageFiles.ts';
