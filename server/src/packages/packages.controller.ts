import {
  Controller,
  Get,
  Param,
  ParseUUIDPipe,
  Post,
  StreamableFile,
  UploadedFile,
  UseGuards,
  UseInterceptors,
  BadRequestException,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiTags } from '@nestjs/swagger';
import { brokenRow, LARGEST_FILE_BYTES, readEvents, readPackage, unzip, writePackage, zip } from '@prandel/formats';
import { Database } from '../database/database.ts';
import { evidenceOf, restoreEvidence } from '../evidence/evidence.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { Asker, SignedInGuard } from '../people/people.controller.ts';
import type { Caller } from '../people/people.service.ts';

/** Whole jobs in and out as job packages. */
@ApiTags('packages')
@UseGuards(SignedInGuard)
@Controller('api')
export class PackagesController {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
  ) {}

  @Post('packages')
  @ApiConsumes('multipart/form-data')
  @UseInterceptors(FileInterceptor('file', { limits: { fileSize: LARGEST_FILE_BYTES } }))
  async take(
    @Asker() caller: Caller,
    @UploadedFile() file?: { originalname: string; buffer: Buffer },
  ): Promise<{ id: string }> {
    if (!file) throw new BadRequestException('Choose a job package (a ZIP file).');
    const { job, extras } = readPackage(await unzip(file.buffer));
    return this.database.inShop(caller.shopId, async (tx) => {
      const events = extras.files.get('events.csv');
      const rows = events ? readEvents(events) : [];
      const broken = brokenRow(rows);
      const kept = new Map([...extras.files].filter(([path]) => path !== 'events.csv'));
      // A broken log is kept as it came, beside the job's own.
      if (events && broken) kept.set('events-broken.csv', events);
      const id = await this.store.insert(tx, caller.shopId, job, { ...extras, files: kept });
      if (!broken) await restoreEvidence(tx, caller.shopId, id, rows);
      else
        await this.store.note(
          tx,
          caller.shopId,
          id,
          caller.name,
          `The package's evidence log is broken: ${broken.why} It is kept as events-broken.csv.`,
        );
      await this.store.note(
        tx,
        caller.shopId,
        id,
        caller.name,
        `Imported the job from ${Buffer.from(file.originalname, 'latin1').toString('utf8')}.`,
      );
      return { id };
    });
  }

  @Get('jobs/:id/package')
  async give(@Asker() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<StreamableFile> {
    const { job, extras, log } = await this.database.inShop(caller.shopId, async (tx) => ({
      job: (await this.store.read(tx, id, true)).job,
      extras: await this.store.extras(tx, id),
      log: await evidenceOf(tx, id),
    }));
    const name = `${job.id.replace(/[^A-Za-z0-9._-]+/g, '-') || 'job'}.zip`;
    return new StreamableFile(await zip(writePackage(job, extras, log)), {
      type: 'application/zip',
      disposition: `attachment; filename="${name}"`,
    });
  }
}
