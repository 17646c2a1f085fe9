import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post, Req, Res } from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { Access, CurrentUser } from './access.ts';
import type { Person } from './caller.ts';
import { OneTimeLinksService } from './oneTimeLinks.service.ts';
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
import { PeopleService } from './people.service.ts';
import { sessionCookie } from './sessionCookie.ts';
import { ABSOLUTE_DAYS, SessionsService, type SessionPlace } from './sessions.service.ts';
import { LinkSecret, LinkShown, LinkUse } from './team.dto.ts';

function placeOf(request: Request): SessionPlace {
  return { userAgent: request.get('user-agent') ?? '', address: request.ip ?? '' };
}

@ApiTags('people')
@Access({ read: 'viewer' })
@Controller('api')
export class PeopleController {
  constructor(
    private readonly people: PeopleService,
    private readonly sessions: SessionsService,
    private readonly links: OneTimeLinksService,
  ) {}

  @Get('status')
  @Access({ open: true })
  @ApiOkResponse({ type: Status })
  async status(): Promise<Status> {
    return { firstStart: await this.people.isFirstStart() };
  }

  /** Sets up the shop of a fresh server, by whoever has its set-up code. */
  @Post('first-start')
  @Access({ open: true })
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
  @Access({ open: true })
  @HttpCode(200)
  @ApiOkResponse({ type: SignedIn })
  signIn(
    @Body() body: SignIn,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<SignedIn> {
    return this.#open(body, request, response);
  }

  /** What a one-time link is for. The secret is in the body, so that no log of addresses holds it. */
  @Post('links/look')
  @Access({ open: true })
  @HttpCode(200)
  @ApiOkResponse({ type: LinkShown })
  lookAtLink(@Body() { secret }: LinkSecret): Promise<LinkShown> {
    return this.links.show(secret);
  }

  /** Uses a one-time link up and signs in whoever it was for. */
  @Post('links/use')
  @Access({ open: true })
  @HttpCode(200)
  @ApiOkResponse({ type: SignedIn })
  async useLink(
    @Body() body: LinkUse,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<SignedIn> {
    const email = await this.links.use(body);
    return this.#open({ email, password: body.password }, request, response);
  }

  @Get('session')
  @ApiOkResponse({ type: SignedIn })
  session(@CurrentUser() caller: Person): SignedIn {
    return shown(caller);
  }

  @Delete('session')
  @HttpCode(204)
  async signOut(
    @CurrentUser() caller: Person,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<void> {
    await this.sessions.end(caller, caller.sessionId);
    const { name, options } = sessionCookie(request);
    response.clearCookie(name, options);
  }

  @Patch('session/units')
  @HttpCode(204)
  async units(@CurrentUser() caller: Person, @Body() body: UnitChoice): Promise<void> {
    await this.people.chooseUnits(caller, body.units);
  }

  /** Where I am signed in. */
  @Get('sessions')
  @ApiOkResponse({ type: [SessionRow] })
  list(@CurrentUser() caller: Person): Promise<SessionRow[]> {
    return this.sessions.list(caller);
  }

  /** Signs me out everywhere else. */
  @Delete('sessions')
  @HttpCode(200)
  @ApiOkResponse({ type: EndedSessions })
  async endOthers(@CurrentUser() caller: Person): Promise<EndedSessions> {
    return { ended: await this.sessions.endOthers(caller) };
  }

  @Delete('sessions/:id')
  @HttpCode(204)
  end(@CurrentUser() caller: Person, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.sessions.end(caller, id);
  }

  /** Changes my password; my other sessions end. */
  @Post('password')
  @HttpCode(204)
  password(@CurrentUser() caller: Person, @Body() body: PasswordChange, @Req() request: Request): Promise<void> {
    return this.people.changePassword(caller, body, placeOf(request));
  }

  async #open(body: SignIn, request: Request, response: Response): Promise<SignedIn> {
    const token = await this.people.signIn(body, placeOf(request));
    const { name, options } = sessionCookie(request);
    response.cookie(name, token, { ...options, maxAge: ABSOLUTE_DAYS * 86_400_000 });
    return shown((await this.sessions.callerOf(token))!);
  }
}

function shown({ shop, name, email, role, units }: Person): SignedIn {
  return { shop, name, email, role, units };
}
