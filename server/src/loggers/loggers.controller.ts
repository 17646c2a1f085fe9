import { Body, Controller, Delete, HttpCode, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiCreatedResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { LoggerAdded, LoggerAnswer, LoggerRequest } from './loggers.dto.ts';
import { LoggersService } from './loggers.service.ts';

/** Records of other loggers beside the pulls of a job. Their files are staged as pull files are. */
@ApiTags('loggers')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/jobs/:id/loggers')
export class LoggersController {
  constructor(private readonly loggers: LoggersService) {}

  /** Where a record lies beside the pulls, or why it cannot be laid; nothing is stored. */
  @Post('preview')
  @HttpCode(200)
  @ApiOkResponse({ type: LoggerAnswer })
  look(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: LoggerRequest,
  ): Promise<LoggerAnswer> {
    return this.loggers.look(caller, id, body);
  }

  @Post()
  @ApiCreatedResponse({ type: LoggerAdded })
  add(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: LoggerRequest,
  ): Promise<LoggerAdded> {
    return this.loggers.add(caller, id, body);
  }

  /** Takes the channels of a record off the pulls again. */
  @Delete(':logger')
  @HttpCode(204)
  remove(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('logger', ParseUUIDPipe) logger: string,
  ): Promise<void> {
    return this.loggers.remove(caller, id, logger);
  }
}
