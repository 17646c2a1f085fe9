import 'reflect-metadata';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule, type OpenAPIObject } from '@nestjs/swagger';
import compression from 'compression';
import type { Request, Response } from 'express';
import cookieParser from 'cookie-parser';
import { AppModule } from './app.module.ts';
import { Database } from './database/database.ts';
import { Forwarder } from './http/forward.ts';
import { CORE_SCHEMAS } from './http/generated/coreSchemas.ts';
import { requestLog, serverLog } from './http/log.ts';
import { pages } from './http/pages.ts';
import { ProblemFilter, validation } from './http/problem.ts';
import { LiveChannel } from './live/liveChannel.ts';
import { BayRelay } from './live/relay.ts';
import { securityHeaders } from './security/headers.ts';
import { bodyGuard, requestGuards } from './security/requestGuards.ts';

type SchemasOf = NonNullable<NonNullable<OpenAPIObject['components']>['schemas']>;

const JSON_BYTES = 1_000_000;

/** Floats and archives cost time to compress and get no smaller. */
function isText(request: Request, response: Response): boolean {
  const type = String(response.getHeader('Content-Type') ?? '');
  return !/octet-stream|zip/.test(type) && compression.filter(request, response);
}

/** The application, its schema looked at and ready to listen. */
export async function createApp(): Promise<NestExpressApplication> {
  const log = serverLog();
  const app = await NestFactory.create<NestExpressApplication>(AppModule, { logger: log, bodyParser: false });
  const proxies = process.env.PRANDEL_TRUST_PROXY;
  if (proxies) app.set('trust proxy', /^\d+$/.test(proxies) ? Number(proxies) : proxies);
  app.disable('x-powered-by');
  app.use(requestLog(log));
  app.use(securityHeaders(proxies !== undefined));
  // Assets, pages and JSON; samples, frames and pictures are no smaller for it.
  app.use(compression({ filter: isText }));
  app.use(requestGuards());
  const forwarder = process.env.PRANDEL_BAYS ? new Forwarder(process.env.PRANDEL_BAYS) : null;
  if (forwarder) app.use(forwarder.bays);
  else app.use(app.get(BayRelay).middleware);
  app.use(pages());
  app.use(cookieParser());
  app.useBodyParser('json', { limit: JSON_BYTES, strict: true });
  app.use(bodyGuard);
  app.useGlobalPipes(validation());
  app.useGlobalFilters(new ProblemFilter());
  const express = app.getHttpAdapter().getInstance();
  // Made when somebody asks for it: that takes longer than everything else between two requests.
  let document: OpenAPIObject | null = null;
  express.get('/api/openapi.json', (_, response) => void response.json((document ??= openApi(app))));
  await app.get(Database).migrate();
  app.get(LiveChannel).attach(app.getHttpServer(), forwarder);
  app.enableShutdownHooks();
  return app;
}

export function openApi(app: NestExpressApplication): OpenAPIObject {
  const document = SwaggerModule.createDocument(app, new DocumentBuilder().setTitle('Prandel').setVersion('1').build());
  const schemas = { ...document.components?.schemas, ...(CORE_SCHEMAS as unknown as SchemasOf) };
  return { ...document, components: { ...document.components, schemas } };
}
