import { createHash, randomBytes } from 'node:crypto';

/** A secret that a link, a session or a token is known by: 256 bits, so that it cannot be guessed. */
export const newSecret = () => randomBytes(32).toString('base64url');

/** What the database keeps of a secret. */
export const digestOf = (secret: string) => createHash('sha256').update(secret).digest('hex');
