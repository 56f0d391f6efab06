import 'reflect-metadata';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { ValidationPipe } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import { static as serveStatic, type NextFunction, type Request, type Response } from 'express';
import { Logger } from 'nestjs-pino';
import { AppModule } from './app.module.js';
import { Uploads } from './clips/uploads.js';
import { ErrorFilter, validationError } from './common/errors.js';
import type { Settings } from './common/settings.js';

/** The whole application, not yet listening. */
export async function createApp(settings: Settings): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(settings), {
    bufferLogs: true,
  });
  app.useLogger(app.get(Logger));
  app.useBodyParser('json', { limit: '200mb' });
  app.useGlobalFilters(new ErrorFilter());
  app.useGlobalPipes(
    new ValidationPipe({
      transform: true,
      whitelist: true,
      forbidNonWhitelisted: true,
      exceptionFactory: validationError,
    }),
  );
  app.use(onlyThisMachine);
  const uploads = app.get(Uploads);
  app.use('/api/uploads', (request: Request, response: Response) => {
    request.url = request.originalUrl;
    uploads.handle(request, response);
  });
  const openApi = new DocumentBuilder()
    .setTitle('Lurn')
    .setDescription('Clips, shots, renders and events. Uploads follow tus 1.0 at /api/uploads.')
    .setVersion('1')
    .build();
  SwaggerModule.setup('api/docs', app, SwaggerModule.createDocument(app, openApi));
  if (settings.webRoot && existsSync(join(settings.webRoot, 'index.html'))) {
    const page = join(settings.webRoot, 'index.html');
    app.use(serveStatic(settings.webRoot, { index: false, maxAge: '1h' }));
    app.use((request: Request, response: Response, next: NextFunction) => {
      const wantsPage =
        request.method === 'GET' && !request.path.startsWith('/api') && request.accepts('html');
      if (wantsPage) response.sendFile(page, { headers: { 'Cache-Control': 'no-cache' }, dotfiles: 'allow' });
      else next();
    });
  }
  return app;
}

/** Refuses requests that reach this machine under another name, as a page elsewhere could make a browser do. */
function onlyThisMachine(request: Request, response: Response, next: NextFunction): void {
  const origin = request.headers.origin;
  const host = (text: string) => text.replace(/^https?:\/\//, '').replace(/:\d+$/, '');
  const ours = (name: string) => ['localhost', '127.0.0.1', '[::1]'].includes(name);
  if (ours(host(request.headers.host ?? '')) && (!origin || ours(host(origin)))) next();
  else
    response
      .status(403)
      .json({ code: 'forbidden', message: 'This server answers its own page on this machine only.' });
}
