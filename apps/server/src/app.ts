import 'reflect-metadata';
import { existsSync } from 'node:fs';
import { extname, join } from 'node:path';
import { ValidationPipe } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import { SHOT_BODY_TYPE } from '@lurn/model';
import { json, raw, static as serveStatic, type NextFunction, type Request, type Response } from 'express';
import helmet from 'helmet';
import { Logger } from 'nestjs-pino';
import { AppModule } from './app.module.js';
import { Uploads } from './clips/uploads.js';
import { answer, describe, ErrorFilter, validationError } from './common/errors.js';
import { onlyOwnOrigin } from './common/own-origin.js';
import { Database } from './database/database.js';
import type { Settings } from './common/settings.js';

/** Bodies of ordinary requests, and of a shot that is saved. */
const SMALL_BODY = '100kb';
const SHOT_BODY = '120mb';
/** As JSON, of which every number is looked at by itself. */
const SHOT_JSON_BODY = '32mb';

/** The whole application, not yet listening. */
export async function createApp(settings: Settings): Promise<NestExpressApplication> {
  // First of all: what cannot be opened is said before anything else has begun.
  const database = await Database.open(settings);
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(settings, database), {
    bufferLogs: true,
    bodyParser: false,
    abortOnError: false,
  });
  app.useLogger(app.get(Logger));
  app.disable('x-powered-by');
  app.use(onlyOwnOrigin);
  app.use(securityHeaders());
  // A shot's bytes are read off this thread, where they are checked.
  app.use('/api/clips/:id/shot', raw({ type: isJson, limit: SHOT_JSON_BODY }));
  app.use('/api/clips/:id/shot', raw({ type: SHOT_BODY_TYPE, limit: SHOT_BODY }));
  app.use(json({ limit: SMALL_BODY, type: isJson }));
  app.use((error: unknown, request: Request, response: Response, next: NextFunction) => {
    if (response.headersSent) return next(error);
    const { status, body } = describe(error);
    answer(request, response, status, body);
  });
  app.useGlobalFilters(new ErrorFilter());
  app.useGlobalPipes(
    new ValidationPipe({
      transform: true,
      whitelist: true,
      forbidNonWhitelisted: true,
      exceptionFactory: validationError,
    }),
  );
  const uploads = app.get(Uploads);
  app.use('/api/uploads', (request: Request, response: Response) => {
    request.url = request.originalUrl;
    uploads.handle(request, response);
  });
  app.use('/api/events', (request: Request, response: Response, next: NextFunction) => {
    // What is asked for its head alone must not wait for events.
    if (request.method !== 'HEAD') next();
    else response.setHeader('Content-Type', 'text/event-stream').end();
  });
  const openApi = new DocumentBuilder()
    .setTitle('Lurn')
    .setDescription('Clips, shots, renders and events. Uploads follow tus 1.0 at /api/uploads.')
    .setVersion('1')
    .build();
  SwaggerModule.setup('api/docs', app, SwaggerModule.createDocument(app, openApi));
  if (settings.webRoot && existsSync(join(settings.webRoot, 'index.html'))) servePage(app, settings.webRoot);
  return app;
}

function isJson(request: { headers: { 'content-type'?: string } }): boolean {
  return /^application\/(.+\+)?json\b/i.test(request.headers['content-type'] ?? '');
}

function securityHeaders() {
  return helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        // The kernels are compiled where they are used.
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        // Panels and notices place themselves by style attributes.
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        mediaSrc: ["'self'", 'blob:'],
        workerSrc: ["'self'", 'blob:'],
        fontSrc: ["'self'", 'data:'],
        objectSrc: ["'none'"],
        baseUri: ["'self'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    // Isolated from other origins, so that memory may be shared between its threads.
    crossOriginEmbedderPolicy: { policy: 'require-corp' },
    referrerPolicy: { policy: 'no-referrer' },
    // It is served without TLS, on this machine alone.
    strictTransportSecurity: false,
  });
}

function servePage(app: NestExpressApplication, root: string): void {
  const page = join(root, 'index.html');
  app.use(serveStatic(root, { index: false, maxAge: '1h' }));
  app.use((request: Request, response: Response, next: NextFunction) => {
    const reads = request.method === 'GET' || request.method === 'HEAD';
    // A file that is not there is no page of ours.
    const isPage = !request.path.startsWith('/api') && extname(request.path) === '';
    const wantsPage = reads && isPage && request.accepts('html');
    if (wantsPage) response.sendFile(page, { headers: { 'Cache-Control': 'no-cache' }, dotfiles: 'allow' });
    else next();
  });
}
