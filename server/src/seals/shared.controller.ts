import { Controller, Get, Header, Param, Req, Res, StreamableFile } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { ApiCoreAnswer, ApiFile } from '../http/answers.ts';
import type { SharedAnswer } from '../http/coreAnswers.ts';
import { Access } from '../people/access.ts';
import { reportHeaders } from '../security/headers.ts';
import { SharesService } from './shares.service.ts';

const NOBODY_KEEPS = 'private, no-store';

/** What a link opens, for whoever bears it. */
@ApiTags('shared')
@Access({ open: true })
@Controller('api/shared/:token')
export class SharedController {
  constructor(private readonly shares: SharesService) {}

  @Get()
  @ApiCoreAnswer('SharedAnswer')
  @Header('Cache-Control', NOBODY_KEEPS)
  show(@Param('token') token: string, @Req() request: Request): Promise<SharedAnswer> {
    return this.shares.show(token, request.ip ?? '');
  }

  @Get('report')
  @ApiFile('text/html')
  async report(@Param('token') token: string, @Req() request: Request, @Res() response: Response): Promise<void> {
    const { content } = await this.shares.file(token, request.ip ?? '', 'report');
    reportHeaders(response);
    response.setHeader('Cache-Control', NOBODY_KEEPS).type('text/html').send(content);
  }

  @Get('package')
  @ApiFile('application/zip')
  @Header('Cache-Control', NOBODY_KEEPS)
  async package(@Param('token') token: string, @Req() request: Request): Promise<StreamableFile> {
    const { name, content } = await this.shares.file(token, request.ip ?? '', 'package');
    return new StreamableFile(content, { type: 'application/zip', disposition: `attachment; filename="${name}"` });
  }
}
