import { Module, type DynamicModule } from '@nestjs/common';
import { LoggerModule } from 'nestjs-pino';
import { Clips } from './clips/clips.js';
import { ClipsController } from './clips/clips.controller.js';
import { Uploads } from './clips/uploads.js';
import { Settings } from './common/settings.js';
import { Database } from './database/database.js';
import { Events, EventsController } from './events/events.js';
import { Renders } from './renders/renders.js';
import { RendersController } from './renders/renders.controller.js';
import { Shots } from './shots/shots.js';
import { ShotsController } from './shots/shots.controller.js';

@Module({})
export class AppModule {
  static with(settings: Settings): DynamicModule {
    return {
      module: AppModule,
      imports: [
        LoggerModule.forRoot({ pinoHttp: { level: process.env.LURN_LOG ?? 'warn', autoLogging: false } }),
      ],
      controllers: [ClipsController, ShotsController, RendersController, EventsController],
      providers: [
        { provide: Settings, useValue: settings },
        { provide: Database, useFactory: () => Database.open(settings) },
        Events,
        Clips,
        Shots,
        Renders,
        Uploads,
      ],
    };
  }
}
