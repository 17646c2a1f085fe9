import {
  Controller,
  Get,
  Param,
  ParseUUIDPipe,
  Post,
  Res,
  StreamableFile,
  UploadedFile,
  UseGuards,
  UseInterceptors,
  BadRequestException,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiCreatedResponse, ApiConsumes, ApiTags } from '@nestjs/swagger';
import { ApiFile, Made } from '../http/answers.ts';
import { brokenRow, LARGEST_FILE_BYTES, readEvents } from '@prandel/formats';
import type { Response } from 'express';
import { Database } from '../database/database.ts';
import { evidenceOf, restoreEvidence } from '../evidence/evidence.ts';
import { nameOf, ScratchStorage, withUploads, type Upload } from '../files/uploads.ts';
import { RoomForUploads } from '../operations/disk.ts';
import { Judging } from '../work/judging.ts';
import { ApiTask, TaskQuery, Tasks, type Task } from '../work/progress.ts';
import { WorkPool } from '../work/workPool.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';

const READING_S = 120;

/** Whole jobs in and out as job packages. */
@ApiTags('packages')
@Access({ read: 'viewer', change: 'technician', scopes: ['read-jobs'] })
@Controller('api')
export class PackagesController {
  constructor(
    private readonly database: Database,
    private readonly store: JobStore,
    private readonly pool: WorkPool,
    private readonly judging: Judging,
    private readonly tasks: Tasks,
  ) {}

  @Post('packages')
  @ApiTask()
  @ApiCreatedResponse({ type: Made })
  @ApiConsumes('multipart/form-data')
  @UseGuards(RoomForUploads)
  @UseInterceptors(
    FileInterceptor('file', {
      storage: new ScratchStorage(),
      limits: { fileSize: LARGEST_FILE_BYTES, files: 1, fields: 10 },
    }),
  )
  take(
    @CurrentUser() caller: Caller,
    @UploadedFile() file: Upload | undefined,
    @Res({ passthrough: true }) response: Response,
    @TaskQuery() task?: string,
  ): Promise<Made> {
    if (!file) throw new BadRequestException('Choose a job package (a ZIP file).');
    return withUploads([file], () =>
      this.tasks.run(caller.shopId, task, response, (own) => this.#take(caller, file, own)),
    );
  }

  async #take(caller: Caller, file: Upload, task: Task): Promise<Made> {
    const { job, extras } = await this.pool.run(caller.shopId, 'readPackage', () => ({ input: { path: file.path } }), {
      timeoutS: READING_S,
      signal: task.signal,
    });
    task.tell('storing', 0);
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
      await this.store.note(tx, caller.shopId, id, caller.name, `Imported the job from ${nameOf(file)}.`);
      task.signal.throwIfAborted();
      return { id };
    });
  }

  @Get('jobs/:id/package')
  @ApiFile('application/zip')
  async give(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<StreamableFile> {
    const read = () =>
      this.database.inShop(caller.shopId, async (tx) => ({
        job: (await this.store.read(tx, id, true)).job,
        extras: await this.store.extras(tx, id),
        log: await evidenceOf(tx, id),
      }));
    const { job } = await this.database.inShop(caller.shopId, (tx) => this.store.read(tx, id, false));
    const name = `${job.id.replace(/[^A-Za-z0-9._-]+/g, '-').slice(0, 60) || 'job'}.zip`;
    return new StreamableFile(await this.judging.writePackage(caller, read), {
      type: 'application/zip',
      disposition: `attachment; filename="${name}"`,
    });
  }
}
