import {
  BadRequestException,
  Body,
  ConflictException,
  Controller,
  Get,
  HttpCode,
  NotFoundException,
  Param,
  ParseUUIDPipe,
  Post,
  Put,
  Query,
  UseGuards,
} from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { Version } from '../http/checks.ts';
import { DEFAULT_METHOD, methodProblems, type Method } from '@prandel/core';
import { IsIn, IsObject, IsOptional, IsString, Length } from 'class-validator';
import { and, asc, eq, gt } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { RECORD_KINDS, type RecordKind } from '../database/papers.ts';
import { records } from '../database/schema.ts';
import { Asker, SignedInGuard } from '../people/people.controller.ts';
import type { Caller } from '../people/people.service.ts';

const PAGE = 100;
const LARGEST_PAPER = 20_000;

export class RecordBody {
  @ApiProperty({ enum: RECORD_KINDS }) @IsIn(RECORD_KINDS) kind: RecordKind;
  @ApiProperty() @IsString() @Length(1, 120, { message: 'Give it a name.' }) label: string;
  @ApiProperty({ type: 'object', additionalProperties: true }) @IsObject() paper: Record<string, unknown>;
  @ApiPropertyOptional({ description: 'The version that was read, when an existing record is changed.' })
  @IsOptional()
  @Version()
  version?: number;
}

export class RecordRow extends RecordBody {
  @ApiProperty() id: string;
  @ApiProperty() declare version: number;
}

export class RecordPage {
  @ApiProperty({ type: [RecordRow] }) records: RecordRow[];
  @ApiProperty({ nullable: true, type: String, description: 'Pass as `after` for the next page.' }) next: string | null;
}

/** What a shop reuses from job to job: customers, vehicles, parts, model cards, house methods. Jobs copy from them. */
@ApiTags('records')
@UseGuards(SignedInGuard)
@Controller('api/records')
export class RecordsController {
  constructor(private readonly database: Database) {}

  @Get()
  @ApiOkResponse({ type: RecordPage })
  async list(
    @Asker() caller: Caller,
    @Query('kind') kind: string,
    @Query('after') after?: string,
  ): Promise<RecordPage> {
    if (!(RECORD_KINDS as readonly string[]).includes(kind))
      throw new BadRequestException(`Name a kind: ${RECORD_KINDS.join(', ')}.`);
    const rows = await this.database.inShop(caller.shopId, (tx) =>
      tx
        .select()
        .from(records)
        .where(and(eq(records.kind, kind as RecordKind), after ? gt(records.label, after) : undefined))
        .orderBy(asc(records.label))
        .limit(PAGE),
    );
    return {
      records: rows.map(({ id, kind: own, label, paper, version }) => ({ id, kind: own, label, paper, version })),
      next: rows.length === PAGE ? rows.at(-1)!.label : null,
    };
  }

  @Post()
  async add(@Asker() caller: Caller, @Body() body: RecordBody): Promise<{ id: string }> {
    check(body);
    const { kind, label, paper } = body;
    const [row] = await this.database.inShop(caller.shopId, (tx) =>
      tx.insert(records).values({ shopId: caller.shopId, kind, label, paper }).onConflictDoNothing().returning(),
    );
    if (!row) throw new ConflictException(`There is a record named "${label}" already.`);
    return { id: row.id };
  }

  @Put(':id')
  @HttpCode(204)
  async edit(@Asker() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: RecordBody): Promise<void> {
    check(body);
    const { label, paper, version } = body;
    await this.database.inShop(caller.shopId, async (tx) => {
      const [row] = await tx.select().from(records).where(eq(records.id, id));
      if (!row) throw new NotFoundException('This shop has no such record.');
      if (row.version !== version)
        throw new ConflictException(
          'Somebody else changed this record meanwhile. Load it again, then repeat your change.',
        );
      await tx
        .update(records)
        .set({ label, paper, version: row.version + 1 })
        .where(eq(records.id, id));
    });
  }
}

function check({ kind, paper }: RecordBody): void {
  if (JSON.stringify(paper).length > LARGEST_PAPER) throw new BadRequestException('This record is too long.');
  if (kind !== 'method') return;
  const problems = methodProblems({ ...DEFAULT_METHOD, ...(paper as Partial<Method>) });
  if (problems.length > 0) throw new BadRequestException(problems.join(' '));
}
