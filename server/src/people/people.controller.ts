import {
  Body,
  Controller,
  createParamDecorator,
  Delete,
  Get,
  HttpCode,
  Injectable,
  Patch,
  Post,
  Req,
  Res,
  UnauthorizedException,
  type CanActivate,
  type ExecutionContext,
} from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { FirstStart, SignedIn, SignIn, Status, UnitChoice } from './people.dto.ts';
import { PeopleService, SESSION_COOKIE, type Caller } from './people.service.ts';

type Asking = Request & { caller?: Caller };

function tokenOf(request: Request): string | undefined {
  return (request.cookies as Record<string, string | undefined>)[SESSION_COOKIE];
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
  constructor(private readonly people: PeopleService) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const request = context.switchToHttp().getRequest<Asking>();
    const caller = await this.people.callerOf(tokenOf(request));
    if (!caller) throw new UnauthorizedException('Sign in first.');
    request.caller = caller;
    return true;
  }
}

@ApiTags('people')
@Controller('api')
export class PeopleController {
  constructor(private readonly people: PeopleService) {}

  @Get('status')
  @ApiOkResponse({ type: Status })
  async status(): Promise<Status> {
    return { firstStart: await this.people.isFirstStart() };
  }

  @Post('first-start')
  @HttpCode(201)
  @ApiOkResponse({ type: SignedIn })
  async firstStart(@Body() body: FirstStart, @Res({ passthrough: true }) response: Response): Promise<SignedIn> {
    await this.people.firstStart(body);
    return this.open(body, response);
  }

  @Post('session')
  @HttpCode(200)
  @ApiOkResponse({ type: SignedIn })
  signIn(@Body() body: SignIn, @Res({ passthrough: true }) response: Response): Promise<SignedIn> {
    return this.open(body, response);
  }

  @Get('session')
  @ApiOkResponse({ type: SignedIn })
  async session(@Req() request: Asking): Promise<SignedIn> {
    return shown(await this.current(request));
  }

  @Delete('session')
  @HttpCode(204)
  async signOut(@Req() request: Asking, @Res({ passthrough: true }) response: Response): Promise<void> {
    await this.people.signOut(await this.current(request), tokenOf(request) ?? '');
    response.clearCookie(SESSION_COOKIE);
  }

  @Patch('session/units')
  @HttpCode(204)
  async units(@Req() request: Asking, @Body() body: UnitChoice): Promise<void> {
    await this.people.chooseUnits(await this.current(request), body.units);
  }

  private async open(body: SignIn, response: Response): Promise<SignedIn> {
    const token = await this.people.signIn(body);
    response.cookie(SESSION_COOKIE, token, { httpOnly: true, sameSite: 'strict', maxAge: 30 * 86_400_000, path: '/' });
    return shown((await this.people.callerOf(token))!);
  }

  private async current(request: Asking): Promise<Caller> {
    const caller = await this.people.callerOf(tokenOf(request));
    if (!caller) throw new UnauthorizedException('Sign in first.');
    return caller;
  }
}

function shown({ shop, name, email, units }: Caller): SignedIn {
  return { shop, name, email, units };
}
