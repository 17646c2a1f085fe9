import { createHash } from 'node:crypto';
import { HttpException, Injectable } from '@nestjs/common';
import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import { Database } from '../database/database.ts';
import { SecurityLog } from './securityLog.ts';

const MINUTES = 15;
const TRIES_AN_ACCOUNT = 10;
const TRIES_AN_ADDRESS = 50;

/** Limits tries to sign in per account and per address, over all server processes. */
@Injectable()
export class SignInLimits {
  readonly #account: RateLimiterPostgres;
  readonly #address: RateLimiterPostgres;

  constructor(
    database: Database,
    private readonly log: SecurityLog,
  ) {
    const limiter = (keyPrefix: string, points: number) =>
      new RateLimiterPostgres({
        storeClient: database.pool,
        storeType: 'pool',
        tableName: 'sign_in_tries',
        tableCreated: true,
        clearExpiredByTimeout: false,
        keyPrefix,
        points,
        duration: MINUTES * 60,
      });
    this.#account = limiter('account', TRIES_AN_ACCOUNT);
    this.#address = limiter('address', TRIES_AN_ADDRESS);
  }

  /** Counts a try. @throws HttpException 429 with the time to wait */
  async count(email: string, address: string): Promise<void> {
    try {
      await this.#address.consume(digest(address));
      await this.#account.consume(digest(email));
    } catch (error) {
      if (!(error instanceof RateLimiterRes)) throw error;
      const seconds = Math.ceil(error.msBeforeNext / 1000);
      this.log.event('sign-in-limited', { account: digest(email).slice(0, 12), address });
      throw new HttpException(
        {
          title: 'Too many tries',
          message: `Too many tries to sign in. Try again in ${waitWords(seconds)}.`,
          retryAfterS: seconds,
        },
        429,
      );
    }
  }

  /** Somebody signed in: the account's tries are forgotten. */
  async forget(email: string): Promise<void> {
    await this.#account.delete(digest(email));
  }
}

function waitWords(seconds: number): string {
  return seconds < 90 ? `${seconds} s` : `${Math.ceil(seconds / 60)} min`;
}

/** Neither addresses nor accounts are kept in the clear. */
function digest(text: string): string {
  return createHash('sha256').update(text.toLowerCase()).digest('hex');
}
