import { Injectable, Logger } from '@nestjs/common';

/** What happened at the doors. */
export type SecurityEvent =
  | 'first-start'
  | 'first-start-refused'
  | 'signed-in'
  | 'sign-in-refused'
  | 'sign-in-limited'
  | 'signed-out'
  | 'sessions-ended'
  | 'password-changed'
  | 'password-change-refused'
  | 'link-made'
  | 'link-used'
  | 'link-limited'
  | 'role-changed'
  | 'person-removed'
  | 'token-made'
  | 'token-withdrawn';

/** Security events for the operator's log, without secrets: no password, no token, no e-mail address. */
@Injectable()
export class SecurityLog {
  readonly #log = new Logger('Security');

  event(event: SecurityEvent, details: Readonly<Record<string, string | number>> = {}): void {
    this.#log.log({ event, ...details });
  }
}
