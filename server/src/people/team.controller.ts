import { Body, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiCreatedResponse, ApiNoContentResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from './access.ts';
import type { Person } from './caller.ts';
import { MadeLink, NewInvitation, RoleChange, Team } from './team.dto.ts';
import { TeamService } from './team.service.ts';

/** Who works in the shop; for its owner. */
@ApiTags('people')
@Access({ read: 'owner' })
@Controller('api/people')
export class TeamController {
  constructor(private readonly team: TeamService) {}

  @Get()
  @ApiOkResponse({ type: Team })
  read(@CurrentUser() owner: Person): Promise<Team> {
    return this.team.read(owner);
  }

  @Post('invitations')
  @ApiCreatedResponse({ type: MadeLink })
  invite(@CurrentUser() owner: Person, @Body() body: NewInvitation): Promise<MadeLink> {
    return this.team.invite(owner, body);
  }

  @Delete('invitations/:id')
  @HttpCode(204)
  @ApiNoContentResponse()
  withdraw(@CurrentUser() owner: Person, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.team.withdraw(owner, id);
  }

  @Patch(':id')
  @HttpCode(204)
  @ApiNoContentResponse()
  changeRole(
    @CurrentUser() owner: Person,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: RoleChange,
  ): Promise<void> {
    return this.team.changeRole(owner, id, body);
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiNoContentResponse()
  remove(@CurrentUser() owner: Person, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.team.remove(owner, id);
  }

  @Post(':id/reset-link')
  @ApiCreatedResponse({ type: MadeLink })
  resetLink(@CurrentUser() owner: Person, @Param('id', ParseUUIDPipe) id: string): Promise<MadeLink> {
    return this.team.resetLink(owner, id);
  }
}
