import 'reflect-metadata';
import { writeFileSync } from 'node:fs';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { AppModule } from './app.module.ts';
import { openApi } from './createApp.ts';

/** Writes the OpenAPI document to the path given, without a database; the web's types are generated from it. */
process.env.DATABASE_URL ??= 'postgres://nobody@127.0.0.1:1/none';
const app = await NestFactory.create<NestExpressApplication>(AppModule, { logger: false, preview: true });
writeFileSync(process.argv[2]!, JSON.stringify(openApi(app), null, 2));
await app.close();
