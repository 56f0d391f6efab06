import {
  ArgumentsHost,
  BadRequestException,
  Catch,
  ExceptionFilter,
  HttpException,
  Logger,
  ValidationError,
} from '@nestjs/common';
import { LurnError, toWire } from '@lurn/core';
import type { ApiError } from '@lurn/model';
import type { Request, Response } from 'express';
import { fullDisk, isFullDisk } from './full-disk.js';

/** Codes that are not the request's fault in the ordinary way (400). */
const STATUS: Record<string, number> = {
  'not-found': 404,
  'no-sound': 404,
  'missing-file': 410,
  conflict: 409,
  'not-ready': 409,
  'not-read-yet': 425,
  'too-large': 413,
  'disk-full': 507,
  fault: 500,
};

/** What body-parser and send call what is wrong with a request. */
const FAULTS: Record<string, { status: number; code: string; message: string }> = {
  'entity.parse.failed': { status: 400, code: 'bad-request', message: 'The body is not JSON.' },
  'entity.too.large': { status: 413, code: 'too-large', message: 'The request is larger than is taken.' },
  'charset.unsupported': { status: 400, code: 'bad-request', message: 'The body must be in UTF-8.' },
  'encoding.unsupported': {
    status: 400,
    code: 'bad-request',
    message: 'The body has an encoding that is not known.',
  },
  'request.aborted': { status: 400, code: 'bad-request', message: 'The request was broken off.' },
  'request.size.invalid': { status: 400, code: 'bad-request', message: 'The request was broken off.' },
};

/** Every error leaves the API as `{ code, message, details? }`. */
@Catch()
export class ErrorFilter implements ExceptionFilter {
  private readonly log = new Logger('Errors');

  catch(error: unknown, host: ArgumentsHost): void {
    const http = host.switchToHttp();
    const response = http.getResponse<Response>();
    const { status, body } = describe(error);
    if (status >= 500 && status !== 507) this.log.error(error);
    if (response.headersSent) response.destroy();
    else answer(http.getRequest<Request>(), response, status, body);
  }
}

export function answer(request: Request, response: Response, status: number, body: ApiError): void {
  response.status(status);
  // What is not there now may be there in a moment.
  response.setHeader('Cache-Control', 'no-store');
  if (body.code === 'not-read-yet') response.setHeader('Retry-After', '1');
  if (request.method === 'HEAD') response.end();
  else response.json(body);
}

export function describe(error: unknown): { status: number; body: ApiError } {
  if (isFullDisk(error)) return { status: 507, body: fullDisk().toJSON() };
  if (error instanceof LurnError) return { status: STATUS[error.code] ?? 400, body: toWire(error) };
  if (error instanceof HttpException) {
    const status = error.getStatus();
    const told = error.getResponse();
    if (typeof told === 'object' && 'code' in told) return { status, body: told as ApiError };
    const code = status === 404 ? 'not-found' : status === 413 ? 'too-large' : 'bad-request';
    return { status, body: { code, message: error.message } };
  }
  const { type = '', status } = (error ?? {}) as { type?: string; status?: number };
  if (FAULTS[type]) {
    const { status: known, ...body } = FAULTS[type];
    return { status: known, body };
  }
  if (error instanceof RangeError && /call stack/i.test(error.message)) {
    return { status: 400, body: { code: 'bad-request', message: 'The body is nested too deeply.' } };
  }
  if (error instanceof URIError)
    return { status: 400, body: { code: 'bad-request', message: 'The address is not well-formed.' } };
  // What express and its parsers find wrong with a request carries a status of its own.
  if (status !== undefined && status >= 400 && status < 500 && error instanceof Error)
    return { status: status === 415 ? 400 : status, body: { code: 'bad-request', message: error.message } };
  return {
    status: 500,
    body: {
      code: 'fault',
      message: 'The server met a fault of its own; its log says more. Nothing saved was lost.',
    },
  };
}

/** What class-validator found, as one error that names every value out of place. */
export function validationError(errors: ValidationError[]): BadRequestException {
  const lines = errors.flatMap((e) => flatten(e, ''));
  return new BadRequestException({
    code: 'bad-request',
    message: lines.map((l) => `${l.field} ${l.why}`).join('; ') + '.',
    details: { fields: lines },
  });
}

function flatten(error: ValidationError, prefix: string): { field: string; why: string }[] {
  const field = `${prefix}${error.property}`;
  const own = Object.entries(error.constraints ?? {}).map(([name, why]) => ({
    field,
    why: name === 'whitelistValidation' ? 'is not known' : why,
  }));
  return [...own, ...(error.children ?? []).flatMap((child) => flatten(child, `${field}.`))];
}

export function notFound(what: string, id: string): LurnError {
  return new LurnError('not-found', `There is no ${what} "${id}".`);
}
