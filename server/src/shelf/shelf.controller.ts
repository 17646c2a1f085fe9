import { Body, Controller, Get, HttpCode, Param, ParseUUIDPipe, Post, Query } from '@nestjs/common';
import { ApiNoContentResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { ApiCoreAnswer } from '../http/answers.ts';
import type { PartShelfAnswer } from '../http/coreAnswers.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { ExpectedGain, PartMerge, PartName, ShelfPage, ShelfSearch } from './shelf.dto.ts';
import { ShelfService } from './shelf.service.ts';

/** Parts with what they did on the cars that had them. */
@ApiTags('shelf')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api/shelf')
export class ShelfController {
  constructor(private readonly shelf: ShelfService) {}

  @Get()
  @ApiOkResponse({ type: ShelfPage })
  list(@CurrentUser() caller: Caller, @Query() search: ShelfSearch): Promise<ShelfPage> {
    return this.shelf.list(caller, search);
  }

  /** What a part of this name is expected to do on the next car. */
  @Get('expected')
  @ApiOkResponse({ type: ExpectedGain })
  expected(@CurrentUser() caller: Caller, @Query() { name }: PartName): Promise<ExpectedGain> {
    return this.shelf.expected(caller, name);
  }

  @Get(':id')
  @ApiCoreAnswer('PartShelfAnswer')
  one(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<PartShelfAnswer> {
    return this.shelf.one(caller, id);
  }

  /** Makes one part of two. */
  @Post(':id/merge')
  @HttpCode(204)
  @ApiNoContentResponse()
  merge(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() { into }: PartMerge,
  ): Promise<void> {
    return this.shelf.merge(caller, id, into);
  }
}
