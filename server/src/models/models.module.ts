import { Controller, Get, Module, Param, ParseUUIDPipe } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { ApiCoreAnswer } from '../http/answers.ts';
import type { ModelAnswer, ModelsAnswer } from '../http/coreAnswers.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { ModelsService } from './models.service.ts';

/** What the shop knows of models. */
@ApiTags('models')
@Access({ read: 'viewer', scopes: ['read-jobs'] })
@Controller('api/models')
class ModelsController {
  constructor(private readonly models: ModelsService) {}

  @Get()
  @ApiCoreAnswer('ModelsAnswer')
  list(@CurrentUser() caller: Caller): Promise<ModelsAnswer> {
    return this.models.list(caller);
  }

  @Get(':id')
  @ApiCoreAnswer('ModelAnswer')
  one(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<ModelAnswer> {
    return this.models.one(caller, id);
  }
}

/** What the shop knows of models. */
@Module({ controllers: [ModelsController], providers: [ModelsService] })
export class ModelsModule {}
