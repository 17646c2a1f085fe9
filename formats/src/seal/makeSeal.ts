import { CHAIN_START, type EvidenceRow } from '../evidence/chain.ts';
import type { PackageFiles } from '../jobPackage/packageFiles.ts';
import { SEAL_PATH, SEAL_VERSION, signedText, type Seal } from './sealDocument.ts';
import { plainSha256, type Sha256 } from './sha256.ts';

export interface SealWith {
  readonly files: PackageFiles;
  readonly log: readonly EvidenceRow[];
  readonly facts: Pick<Seal, 'sealedAt' | 'shop' | 'by' | 'engine' | 'verdicts' | 'supersedes' | 'publicKey'>;
  readonly reportSha256: string;
  /** Signs a message with the shop's key: Ed25519, 64 bytes. */
  readonly sign: (message: Uint8Array) => Uint8Array;
  readonly sha256?: Sha256;
}

/** The seal of a package: what is in it, how its log ends, what was found, signed. */
export function makeSeal({ files, log, facts, reportSha256, sign, sha256 = plainSha256 }: SealWith): Seal {
  const { sealedAt, shop, by, engine, verdicts, supersedes, publicKey } = facts;
  const resources = [...files]
    .filter(([path]) => path !== SEAL_PATH)
    .map(([path, bytes]) => ({ path, sha256: sha256([bytes]) }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
  const unsigned: Seal = {
    ...{ sealVersion: SEAL_VERSION, sealedAt, shop, by, engine, resources },
    log: { events: log.length, head: log.at(-1)?.hash ?? CHAIN_START },
    verdicts,
    report: { sha256: reportSha256 },
    ...{ supersedes, publicKey },
    signature: '',
  };
  const signature = sign(new TextEncoder().encode(signedText(unsigned)));
  return { ...unsigned, signature: btoa(String.fromCharCode(...signature)) };
}
