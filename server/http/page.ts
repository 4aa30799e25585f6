import { randomBytes } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import express, { type Express, type Response } from 'express';
import helmet from 'helmet';

/** Security headers: everything from this server alone; the style sheets that MUI makes carry the page's nonce. */
export function secure(app: Express): void {
  app.use((_request, response, next) => {
    (response.locals as { nonce?: string }).nonce = randomBytes(16).toString('base64');
    next();
  });
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'", (_request, response) => `'nonce-${(response as Response).locals.nonce as string}'`],
          imgSrc: ["'self'", 'blob:', 'data:'],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
          workerSrc: ["'self'", 'blob:'],
          objectSrc: ["'none'"],
          baseUri: ["'none'"],
          formAction: ["'self'"],
          frameAncestors: ["'none'"],
        },
      },
      strictTransportSecurity: false,
    }),
  );
}

/** The built web page; any path that is no file gets the page itself, which routes on its own. */
export function servePage(app: Express, built: string): void {
  app.use('/assets', express.static(join(built, 'assets'), { immutable: true, maxAge: '1y' }));
  app.use(express.static(built, { index: false }));
  app.get(/^\/(?!api(\/|$))/, async (_request, response) => {
    const page = await readFile(join(built, 'index.html'), 'utf8');
    response
      .set('cache-control', 'no-store')
      .type('html')
      .send(page.replaceAll('__NONCE__', response.locals.nonce as string));
  });
}
