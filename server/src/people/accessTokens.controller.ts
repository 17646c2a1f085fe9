import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiCreatedResponse, ApiNoContentResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from './access.ts';
import { AccessTokenRow, MadeAccessToken, NewAccessToken } from './accessTokens.dto.ts';
import { AccessTokensService } from './accessTokens.service.ts';
import type { Person } from './caller.ts';

/** Tokens for programs, made and withdrawn by the owner. */
@ApiTags('people')
@Access({ read: 'owner' })
@Controller('api/access-tokens')
export class AccessTokensController {
  constructor(private readonly tokens: AccessTokensService) {}

  @Get()
  @ApiOkResponse({ type: [AccessTokenRow] })
  list(@CurrentUser() owner: Person): Promise<AccessTokenRow[]> {
    return this.tokens.list(owner.shopId);
  }

  @Post()
  @ApiCreatedResponse({ type: MadeAccessToken })
  make(@CurrentUser() owner: Person, @Body() body: NewAccessToken): Promise<MadeAccessToken> {
    return this.tokens.make(owner, body);
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiNoContentResponse()
  withdraw(@CurrentUser() owner: Person, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.tokens.withdraw(owner, id);
  }
}
