import {
  BadRequestException,
  Body,
  ConflictException,
  Controller,
  Delete,
  Get,
  HttpCode,
  Injectable,
  Module,
  NotFoundException,
  Param,
  ParseUUIDPipe,
  Post,
  UploadedFiles,
  UseGuards,
  UseInterceptors,
} from '@nestjs/common';
import { FilesInterceptor } from '@nestjs/platform-express';
import {
  ApiConsumes,
  ApiCreatedResponse,
  ApiOkResponse,
  ApiProperty,
  ApiPropertyOptional,
  ApiTags,
} from '@nestjs/swagger';
import { IsIn, IsNumber, IsString, Length, Max, Min } from 'class-validator';
import { asc, eq } from 'drizzle-orm';
import { Database } from '../database/database.ts';
import { sqlState, UNIQUE_VIOLATION } from '../database/faults.ts';
import { ownStandards } from '../database/schema.ts';
import { LARGEST_FILE_BYTES } from '@prandel/formats';
import { nameOf, ScratchStorage, withUploads, type Upload } from '../files/uploads.ts';
import { Made } from '../http/answers.ts';
import { OrNull, Plausible } from '../http/checks.ts';
import { RoomForUploads } from '../operations/disk.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { WorkModule } from '../work/work.module.ts';
import { WorkPool } from '../work/workPool.ts';

const READING_S = 60;

/** A correction standard of the shop's own: a reference with its efficiency, or a factor that a sheet prints. */
export class NewStandard {
  @ApiProperty() @IsString() @Length(1, 60, { message: 'Name the standard.' }) name: string;
  @ApiProperty({ enum: ['reference', 'factor'] }) @IsIn(['reference', 'factor']) kind: 'reference' | 'factor';
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('airC') referenceC?: number | null;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @Plausible('pressureHpa') referenceHpa?:
    number | null;
  @ApiPropertyOptional({ nullable: true, enum: ['dry', 'total'], type: String })
  @OrNull()
  @IsIn(['dry', 'total'])
  pressure?: 'dry' | 'total' | null;
  @ApiPropertyOptional({ nullable: true, type: Number, description: 'Mechanical efficiency, over 0 up to 1.' })
  @OrNull()
  @IsNumber()
  @Min(0.3)
  @Max(1)
  mechanicalEfficiency?: number | null;
  @ApiPropertyOptional({ nullable: true, type: Number }) @OrNull() @IsNumber() @Min(0.2) @Max(5) factor?: number | null;
}

export class StandardRow {
  @ApiProperty() id: string;
  @ApiProperty() name: string;
  @ApiProperty({ enum: ['reference', 'factor'] }) kind: 'reference' | 'factor';
  @ApiProperty({ nullable: true, type: Number }) referenceC: number | null;
  @ApiProperty({ nullable: true, type: Number }) referenceHpa: number | null;
  @ApiProperty({ nullable: true, enum: ['dry', 'total'], type: String }) pressure: 'dry' | 'total' | null;
  @ApiProperty({ nullable: true, type: Number }) mechanicalEfficiency: number | null;
  @ApiProperty({ nullable: true, type: Number }) factor: number | null;
}

export class SheetPull {
  @ApiProperty() name: string;
  @ApiProperty({ nullable: true, type: Number }) peakPowerW: number | null;
  @ApiProperty({ nullable: true, type: Number }) peakTorqueNm: number | null;
  @ApiProperty({ nullable: true, type: String, description: 'Standard that the file names.' }) standard: string | null;
  @ApiProperty({ nullable: true, type: Number, description: 'Factor that the file prints.' }) factor: number | null;
  @ApiProperty({ nullable: true, type: Number }) airC: number | null;
  @ApiProperty({ nullable: true, type: Number }) pressureHpa: number | null;
  @ApiProperty({ nullable: true, type: Number }) relativeHumidity: number | null;
}

/** Correction standards of a shop's own, and what a file says of the one that it is under. */
@Injectable()
export class StandardsService {
  constructor(
    private readonly database: Database,
    private readonly pool: WorkPool,
  ) {}

  /** Peaks of the pulls of a file, with what it says of its correction and its weather; nothing is stored. @throws UnreadableError */
  sheet({ shopId }: Caller, upload: Upload): Promise<SheetPull[]> {
    const input = { path: upload.path, name: nameOf(upload) };
    return this.pool.run(shopId, 'sheetPulls', () => ({ input }), { timeoutS: READING_S });
  }

  list({ shopId }: Caller): Promise<StandardRow[]> {
    const { id, name, kind, referenceC, referenceHpa, pressure, mechanicalEfficiency, factor } = ownStandards;
    return this.database.inShop(shopId, (tx) =>
      tx
        .select({ id, name, kind, referenceC, referenceHpa, pressure, mechanicalEfficiency, factor })
        .from(ownStandards)
        .orderBy(asc(name)),
    );
  }

  async add({ shopId }: Caller, { name, kind, ...said }: NewStandard): Promise<Made> {
    const {
      referenceC = null,
      referenceHpa = null,
      pressure = null,
      mechanicalEfficiency = null,
      factor = null,
    } = said;
    const whole = { referenceC, referenceHpa, pressure, mechanicalEfficiency };
    if (kind === 'factor' && factor === null) throw new BadRequestException('Say the factor that the sheet prints.');
    if (kind === 'reference' && Object.values(whole).includes(null))
      throw new BadRequestException(
        'A standard has a reference temperature and pressure, dry or total, and an efficiency.',
      );
    const own = kind === 'factor' ? { factor } : whole;
    try {
      const [row] = await this.database.inShop(shopId, (tx) =>
        tx
          .insert(ownStandards)
          .values({ shopId, name, kind, ...own })
          .returning({ id: ownStandards.id }),
      );
      return { id: row!.id };
    } catch (error) {
      if (sqlState(error) === UNIQUE_VIOLATION)
        throw new ConflictException(`There is a standard "${name}" already. Choose another name.`);
      throw error;
    }
  }

  async remove({ shopId }: Caller, id: string): Promise<void> {
    const gone = await this.database.inShop(shopId, (tx) =>
      tx.delete(ownStandards).where(eq(ownStandards.id, id)).returning({ id: ownStandards.id }),
    );
    if (gone.length === 0) throw new NotFoundException('There is no such standard; somebody may have removed it.');
  }
}

@ApiTags('standards')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/standards')
export class StandardsController {
  constructor(private readonly standards: StandardsService) {}

  @Get()
  @ApiOkResponse({ type: [StandardRow] })
  list(@CurrentUser() caller: Caller): Promise<StandardRow[]> {
    return this.standards.list(caller);
  }

  @Post()
  @ApiCreatedResponse({ type: Made })
  add(@CurrentUser() caller: Caller, @Body() body: NewStandard): Promise<Made> {
    return this.standards.add(caller, body);
  }

  /** What a curve file says of its numbers. */
  @Post('sheets')
  @ApiConsumes('multipart/form-data')
  @ApiCreatedResponse({ type: [SheetPull] })
  @UseGuards(RoomForUploads)
  @UseInterceptors(
    FilesInterceptor('file', 1, {
      storage: new ScratchStorage(),
      limits: { fileSize: LARGEST_FILE_BYTES, files: 1, fields: 2, parts: 4 },
    }),
  )
  sheet(@CurrentUser() caller: Caller, @UploadedFiles() uploads: Upload[] | undefined): Promise<SheetPull[]> {
    const files = uploads ?? [];
    return withUploads(files, () => {
      if (files.length !== 1) throw new BadRequestException('Send one file, in the field "file".');
      return this.standards.sheet(caller, files[0]!);
    });
  }

  @Delete(':id')
  @HttpCode(204)
  remove(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    return this.standards.remove(caller, id);
  }
}

/** Correction standards of a shop's own, for sheets from elsewhere. */
@Module({ imports: [WorkModule], controllers: [StandardsController], providers: [StandardsService] })
export class StandardsModule {}
