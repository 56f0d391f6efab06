import {
  ArgumentsHost,
  BadRequestException,
  Catch,
  ExceptionFilter,
  HttpException,
  Logger,
  ValidationError,
} from '@nestjs/common';
import { LurnError } from '@lurn/core';
import { DocumentError, type ApiError } from '@lurn/model';
import type { Response } from 'express';

/** Codes that are not the request's fault in the ordinary way (400). */
const STATUS: Record<string, number> = {
  'not-found': 404,
  'missing-file': 410,
  conflict: 409,
  'not-ready': 409,
  'disk-full': 507,
  fault: 500,
};

/** Every error leaves the API as `{ code, message, details? }`. */
@Catch()
export class ErrorFilter implements ExceptionFilter {
  private readonly log = new Logger('Errors');

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const { status, body } = this.describe(error);
    if (status >= 500) this.log.error(error);
    if (response.headersSent) response.destroy();
    else response.status(status).json(body);
  }

  private describe(error: unknown): { status: number; body: ApiError } {
    if (error instanceof LurnError) return { status: STATUS[error.code] ?? 400, body: error.toJSON() };
    if (error instanceof DocumentError) {
      return {
        status: 400,
        body: { code: error.code, message: error.message, details: { path: error.path } },
      };
    }
    if (error instanceof HttpException) {
      const status = error.getStatus();
      const answer = error.getResponse();
      if (typeof answer === 'object' && 'code' in answer) return { status, body: answer as ApiError };
      const code = status === 404 ? 'not-found' : status === 413 ? 'too-large' : 'bad-request';
      return { status, body: { code, message: error.message } };
    }
    const type = (error as { type?: string } | null)?.type;
    if (type === 'entity.parse.failed')
      return { status: 400, body: { code: 'bad-request', message: 'The body is not JSON.' } };
    if (type === 'entity.too.large') {
      return { status: 413, body: { code: 'too-large', message: 'The request is larger than 200 MB.' } };
    }
    return {
      status: 500,
      body: {
        code: 'fault',
        message: 'The server met a fault of its own; its log says more. Nothing saved was lost.',
      },
    };
  }
}

/** What class-validator found, as one error that names every value out of place. */
export function validationError(errors: ValidationError[]): BadRequestException {
  const lines = errors.flatMap((e) => flatten(e, ''));
  return new BadRequestException({
    code: 'bad-request',
    message: lines.map((l) => l.why).join('; ') + '.',
    details: { fields: lines },
  });
}

function flatten(error: ValidationError, prefix: string): { field: string; why: string }[] {
  const field = `${prefix}${error.property}`;
  const own = Object.values(error.constraints ?? {}).map((why) => ({ field, why }));
  return [...own, ...(error.children ?? []).flatMap((child) => flatten(child, `${field}.`))];
}

export function notFound(what: string, id: string): LurnError {
  return new LurnError('not-found', `There is no ${what} "${id}".`);
}
