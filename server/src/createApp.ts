import 'reflect-metadata';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule, type OpenAPIObject } from '@nestjs/swagger';
import cookieParser from 'cookie-parser';
import { AppModule } from './app.module.ts';
import { Database } from './database/database.ts';
import { LiveChannel } from './live/liveChannel.ts';
import { ProblemFilter, validation } from './http/problem.ts';

/** The application, migrated and ready to listen. */
export async function createApp(): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule, { logger: ['error', 'warn'] });
  app.use(cookieParser());
  app.useGlobalPipes(validation());
  app.useGlobalFilters(new ProblemFilter());
  app.disable('x-powered-by');
  const document = openApi(app);
  const express = app.getHttpAdapter().getInstance();
  express.get('/api/openapi.json', (_, response) => void response.json(document));
  await app.get(Database).migrate();
  app.get(LiveChannel).attach(app.getHttpServer());
  app.enableShutdownHooks();
  return app;
}

export function openApi(app: NestExpressApplication): OpenAPIObject {
  return SwaggerModule.createDocument(app, new DocumentBuilder().setTitle('Prandel').setVersion('1').build());
}
