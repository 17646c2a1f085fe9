import { applyDecorators } from '@nestjs/common';
import { ApiOkResponse, ApiProduces, ApiProperty } from '@nestjs/swagger';
import type { CORE_SCHEMAS } from './generated/coreSchemas.ts';

/** The row that was made. */
export class Made {
  @ApiProperty({ format: 'uuid' }) id: string;
}

/** Answers with a file. */
export const ApiFile = (...types: readonly string[]) =>
  applyDecorators(ApiProduces(...types), ApiOkResponse({ schema: { type: 'string', format: 'binary' } }));

/**
 * Answers with a value of a type of `core/`, which pages and server share. Its schema is made from that type
 * (launcher/coreSchemas.mjs); it is not written down a second time.
 */
export const ApiCoreAnswer = (answer: keyof typeof CORE_SCHEMAS) =>
  ApiOkResponse({ schema: { $ref: `#/components/schemas/${answer}` } });
