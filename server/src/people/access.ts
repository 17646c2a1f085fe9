import {
  createParamDecorator,
  ForbiddenException,
  Injectable,
  SetMetadata,
  UnauthorizedException,
  type CanActivate,
  type ExecutionContext,
} from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import type { Request } from 'express';
import type { Role, TokenScope } from '../database/schema.ts';
import { AccessTokensService } from './accessTokens.service.ts';
import type { Caller } from './caller.ts';
import { sessionToken } from './sessionCookie.ts';
import { SessionsService } from './sessions.service.ts';

export type Asking = Request & { caller?: Caller };

/** Who may carry out an operation: anybody, a program with a token of these scopes, or a person of this role or a higher one. */
export interface AccessRule {
  readonly open?: boolean;
  /** To read. */
  readonly read?: Role;
  /** To change; as to read when it is not named. */
  readonly change?: Role;
  /** Programs that may; of an operation on a job one that brings files may only for the job in its bay. */
  readonly scopes?: readonly TokenScope[];
}

/** Under this name an operation's rule is kept. */
export const RULE = 'prandel:access';
const RANK: Readonly<Record<Role, number>> = { viewer: 0, technician: 1, owner: 2 };
const READS = new Set(['GET', 'HEAD']);

/** States who may carry out an operation, or all operations of a controller. Without it nobody may. */
export const Access = (rule: AccessRule) => SetMetadata(RULE, rule);

/** Who asks. */
export const CurrentUser = createParamDecorator((_: unknown, context: ExecutionContext): Caller => {
  const { caller } = context.switchToHttp().getRequest<Asking>();
  if (!caller) throw new UnauthorizedException('Sign in first.');
  return caller;
});

/** Lets in who may: everything is closed unless its rule opens it. */
@Injectable()
export class AccessGuard implements CanActivate {
  constructor(
    private readonly reflector: Reflector,
    private readonly sessions: SessionsService,
    private readonly tokens: AccessTokensService,
  ) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const rule = this.reflector.getAllAndOverride<AccessRule | undefined>(RULE, [
      context.getHandler(),
      context.getClass(),
    ]);
    const request = context.switchToHttp().getRequest<Asking>();
    if (rule?.open) return true;
    const caller = await this.#callerOf(request);
    if (!caller) throw new UnauthorizedException('Sign in first.');
    request.caller = caller;
    const needed = neededRole(rule, request.method);
    if (needed === null) throw new ForbiddenException('Nobody may do this.');
    if (caller.tokenId !== null) {
      if (!rule?.scopes?.includes(caller.scope!))
        throw new ForbiddenException('The access token is not made for this. Make one with the right scope.');
      if (caller.scope === 'read-jobs' && !READS.has(request.method))
        throw new ForbiddenException('This access token reads, it changes nothing.');
      if (caller.scope === 'upload-to-bay' && typeof request.params.id === 'string') {
        if (request.path.startsWith('/api/bays/')) refuseOtherBay(caller, request.params.id);
        else await this.tokens.refuseOtherBays(caller, request.params.id);
      }
      return true;
    }
    if (RANK[caller.role!] < RANK[needed])
      throw new ForbiddenException(
        needed === 'owner'
          ? 'This is for the owner of the shop. Ask them to do it, or to change your role.'
          : 'You may look at everything in this shop, but change nothing. Ask the owner to change your role.',
      );
    return true;
  }

  #callerOf(request: Asking): Promise<Caller | null> {
    const [scheme, token] = (request.get('authorization') ?? '').split(' ');
    if (scheme?.toLowerCase() === 'bearer') return this.tokens.callerOf(token);
    return this.sessions.callerOf(sessionToken(request.cookies as Record<string, string | undefined>));
  }
}

/** @throws ForbiddenException when a program's token is for another bay */
function refuseOtherBay(caller: Caller, bayId: string): void {
  if (caller.bayId !== bayId) throw new ForbiddenException('This access token is for another bay.');
}

function neededRole(rule: AccessRule | undefined, method: string): Role | null {
  const role = READS.has(method) ? rule?.read : (rule?.change ?? rule?.read);
  return role ?? null;
}
