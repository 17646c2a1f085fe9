import { Module } from '@nestjs/common';
import { SecurityLog } from '../security/securityLog.ts';
import { SignInLimits } from '../security/signInLimits.ts';
import { AccessTokensController } from './accessTokens.controller.ts';
import { AccessTokensService } from './accessTokens.service.ts';
import { OneTimeLinksService } from './oneTimeLinks.service.ts';
import { PeopleController } from './people.controller.ts';
import { PeopleService } from './people.service.ts';
import { SessionsService } from './sessions.service.ts';
import { TeamController } from './team.controller.ts';
import { TeamService } from './team.service.ts';

/** People, sessions, roles, one-time links and access tokens. */
@Module({
  controllers: [PeopleController, TeamController, AccessTokensController],
  providers: [
    PeopleService,
    SessionsService,
    AccessTokensService,
    OneTimeLinksService,
    TeamService,
    SignInLimits,
    SecurityLog,
  ],
  exports: [SessionsService, AccessTokensService],
})
export class PeopleModule {}
