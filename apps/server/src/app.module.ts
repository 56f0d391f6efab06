import { Module, type DynamicModule } from '@nestjs/common';
import { LoggerModule } from 'nestjs-pino';
import { Assets } from './assets/assets.js';
import { AssetsController } from './assets/assets.controller.js';
import { Masks } from './assets/masks.js';
import { UnusedAssets } from './assets/unused-assets.js';
import { Clips } from './clips/clips.js';
import { Analysing } from './clips/analysing.js';
import { Reading } from './clips/reading.js';
import { ClipsController } from './clips/clips.controller.js';
import { Uploads } from './clips/uploads.js';
import { Settings } from './common/settings.js';
import { Database } from './database/database.js';
import { Events, EventsController } from './events/events.js';
import { FormatsController } from './formats/formats.controller.js';
import { JobStore } from './jobs/job-store.js';
import { JobRunner } from './jobs/runner.js';
import { WorkerGateway } from './machines/worker-gateway.js';
import { Machines } from './machines/machines.js';
import { QueueController } from './machines/queue.controller.js';
import { Workers } from './machines/workers.js';
import { SqliteJobs } from './jobs/sqlite-jobs.js';
import { Renders } from './renders/renders.js';
import { Rendering } from './renders/rendering.js';
import { RendersController } from './renders/renders.controller.js';
import { ShotThreads } from './shots/shot-threads.js';
import { Shots } from './shots/shots.js';
import { ShotsController } from './shots/shots.controller.js';

@Module({})
export class AppModule {
  static with(settings: Settings, database: Database): DynamicModule {
    return {
      module: AppModule,
      imports: [
        LoggerModule.forRoot({ pinoHttp: { level: process.env.LURN_LOG ?? 'warn', autoLogging: false } }),
      ],
      controllers: [
        ClipsController,
        ShotsController,
        AssetsController,
        RendersController,
        FormatsController,
        EventsController,
        QueueController,
      ],
      providers: [
        { provide: Settings, useValue: settings },
        { provide: Database, useFactory: () => database },
        { provide: JobStore, useClass: SqliteJobs },
        {
          provide: JobRunner,
          useFactory: (store: JobStore) => runnerFor(store, settings),
          inject: [JobStore],
        },
        Workers,
        WorkerGateway,
        Machines,
        { provide: Rendering, useFactory: (machines: Machines) => machines.rendering, inject: [Machines] },
        ShotThreads,
        Events,
        Clips,
        Reading,
        Analysing,
        Shots,
        Renders,
        Assets,
        Masks,
        UnusedAssets,
        Uploads,
      ],
    };
  }
}

/** Renders that several machines make run side by side, so that none of the machines waits for the last part of one. */
const SHARED_RENDERS = 3;

function runnerFor(store: JobStore, { queue }: Settings): JobRunner {
  return new JobRunner(store, queue === null ? {} : { atATime: { render: SHARED_RENDERS } });
}
