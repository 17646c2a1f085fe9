import {
  Body,
  Controller,
  createParamDecorator,
  Delete,
  Get,
  HttpCode,
  Injectable,
  Param,
  ParseUUIDPipe,
  Patch,
  Post,
  Req,
  Res,
  UnauthorizedException,
  UseGuards,
  type CanActivate,
  type ExecutionContext,
} from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import {
  EndedSessions,
  FirstStart,
  PasswordChange,
  SessionRow,
  SignedIn,
  SignIn,
  Status,
  UnitChoice,
} from './people.dto.ts';
import { PeopleService, type Caller } from './people.service.ts';
import { sessionCookie, sessionToken } from './sessionCookie.ts';
import { ABSOLUTE_DAYS, SessionsService, type SessionPlace } from './sessions.service.ts';

type Asking = Request & { caller?: Caller };

function tokenOf(request: Request): string | undefined {
  return sessionToken(request.cookies as Record<string, string | undefined>);
}

function placeOf(request: Request): SessionPlace {
  return { userAgent: request.get('user-agent') ?? '', address: request.ip ?? '' };
}

/** The person who is signed in. */
export const Asker = createParamDecorator((_: unknown, context: ExecutionContext): Caller => {
  const { caller } = context.switchToHttp().getRequest<Asking>();
  if (!caller) throw new UnauthorizedException('Sign in first.');
  return caller;
});

/** Lets nobody in without a session. */
@Injectable()
export class SignedInGuard implements CanActivate {
  constructor(private readonly sessions: SessionsService) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const request = context.switchToHttp().getRequest<Asking>();
    const caller = await this.sessions.callerOf(tokenOf(request));
    if (!caller) throw new UnauthorizedException('Sign in first.');
    request.caller = caller;
    return true;
  }
}

@ApiTags('people')
@Controller('api')
export class PeopleController {
  constructor(
    private readonly people: PeopleService,
    private readonly sessions: SessionsService,
  ) {}

  @Get('status')
  @ApiOkResponse({ type: Status })
  async status(): Promise<Status> {
    return { firstStart: await this.people.isFirstStart() };
  }

  /** Sets up the shop of a fresh server, by whoever has its set-up code. */
  @Post('first-start')
  @HttpCode(201)
  @ApiCreatedResponse({ type: SignedIn })
  async firstStart(
    @Body() body: FirstStart,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<SignedIn> {
    await this.people.claim(body);
    return this.#open(body, request, response);
  }

  @Post('session')
  @HttpCode(200)
  @ApiOkResponse({ type: SignedIn })
  signIn(
    @Body() body: SignIn,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<SignedIn> {
    return this.#open(body, request, response);
  }

  @Get('session')
  @UseGuards(SignedInGuard)
  @ApiOkResponse({ type: SignedIn })
  session(@Asker() caller: Caller): SignedIn {
    return shown(caller);
  }

  @Delete('session')
  @HttpCode(204)
  @UseGuards(SignedInGuard)
  async signOut(
    @Asker() caller: Caller,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<void> {
    await this.sessions.end(caller, caller.sessionId);
    const { name, options } = sessionCookie(request);
    response.clearCookie(name, options);
  }

  @Patch('session/units')
  @HttpCode(204)
  @UseGuards(SignedInGuard)
  async units(@Asker() caller: Caller, @Body() body: UnitChoice): Promise<void> {
    await this.people.chooseUnits(caller, body.units);
  }

  /** Where I am signed in. */
  @Get('sessions')
  @UseGuards(SignedInGuard)
  @ApiOkResponse({ type: [SessionRow] })
  list(@Asker() caller: Caller): Promise<SessionRow[]> {
    return this.sessions.list(caller);
  }

  /** Signs me out everywhere else. */
  @Delete('sessions')
  @HttpCode(200)
  @UseGuards(SignedInGuard)
  @ApiOkResponse({ type: EndedSessions })
  async endOthers(@Asker() caller: Caller): Promise<EndedSessions> {
    return { ended: await this.sessions.endOthers(caller) };
  }

  @Delete('sessions/:id')
  @HttpCode(204)
  @UseGuards(SignedInGuard)
  end(@Asker() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.sessions.end(caller, id);
  }

  /** Changes my password; my other sessions end. */
  @Post('password')
  @HttpCode(204)
  @UseGuards(SignedInGuard)
  password(@Asker() caller: Caller, @Body() body: PasswordChange, @Req() request: Request): Promise<void> {
    return this.people.changePassword(caller, body, placeOf(request));
  }

  async #open(body: SignIn, request: Request, response: Response): Promise<SignedIn> {
    const token = await this.people.signIn(body, placeOf(request));
    const { name, options } = sessionCookie(request);
    response.cookie(name, token, { ...options, maxAge: ABSOLUTE_DAYS * 86_400_000 });
    return shown((await this.sessions.callerOf(token))!);
  }
}

function shown({ shop, name, email, units }: Caller): SignedIn {
  return { shop, name, email, units };
}
