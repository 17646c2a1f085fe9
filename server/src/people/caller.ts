import type { Role, TokenScope } from '../database/schema.ts';

/** Who asks, for which shop: a person in a session, or a program with a token. */
export interface Caller {
  readonly shopId: string;
  readonly shop: string;
  /** What the log calls who asks. */
  readonly name: string;
  readonly email: string;
  readonly units: Record<string, string>;
  /** Null for a program. */
  readonly personId: string | null;
  readonly sessionId: string | null;
  readonly role: Role | null;
  /** Null for a person. */
  readonly tokenId: string | null;
  readonly scope: TokenScope | null;
  /** The one bay for whose job a program may bring files. */
  readonly bayId: string | null;
}

/** A person in a session. */
export type Person = Caller & { readonly personId: string; readonly sessionId: string; readonly role: Role };
