import type { NextFunction, Request, Response } from 'express';

const NAMES = ['localhost', '127.0.0.1', '[::1]'];

/** The origins of this server's own page. */
export function ownOrigins(port: number): string[] {
  return NAMES.map((name) => `http://${name}:${port}`);
}

/**
 * Refuses requests that reach this machine under another name, as a page elsewhere could make a browser do, and those of
 * pages of other origins, another port of this machine among them.
 */
export function onlyOwnOrigin(request: Request, response: Response, next: NextFunction): void {
  const { host = '', origin } = request.headers;
  if (NAMES.includes(nameOf(host)) && (!origin || isSame(origin, host))) next();
  else
    response
      .status(403)
      .json({ code: 'forbidden', message: 'This server answers its own page on this machine only.' });
}

function nameOf(host: string): string {
  return host.replace(/:\d+$/, '');
}

/** This machine has several names; the port has to be the one that was asked. */
function isSame(origin: string, host: string): boolean {
  const [scheme, rest = ''] = origin.split('://');
  const port = (text: string) => /:(\d+)$/.exec(text)?.[1] ?? '80';
  return scheme === 'http' && NAMES.includes(nameOf(rest)) && port(rest) === port(host);
}
