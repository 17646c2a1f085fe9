import { Controller, Get, Res } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { Access } from '../people/access.ts';
import { Health } from './health.dto.ts';
import { HealthService } from './health.service.ts';

@ApiTags('operations')
@Access({ open: true })
@Controller('api/health')
export class HealthController {
  constructor(private readonly health: HealthService) {}

  /** For the operator's monitor: 200 when everything works, 503 with the same body when something does not. */
  @Get()
  @ApiOkResponse({ type: Health })
  async now(@Res({ passthrough: true }) response: Response): Promise<Health> {
    const health = await this.health.now();
    response.status(health.ready ? 200 : 503);
    return health;
  }
}
