import { applyDecorators } from '@nestjs/common';
import { ApiOkResponse, ApiProduces, ApiProperty } from '@nestjs/swagger';

/** The row that was made. */
export class Made {
  @ApiProperty({ format: 'uuid' }) id: string;
}

/** Answers with a file. */
export const ApiFile = (...types: readonly string[]) =>
  applyDecorators(ApiProduces(...types), ApiOkResponse({ schema: { type: 'string', format: 'binary' } }));

/**
 * Answers with a value of a type of `core/`, which pages and server share: the document names it, the pages' client knows it
 * (web/src/api/client.ts), and it is not written down a second time.
 */
export const ApiCoreAnswer = (type: string) =>
  ApiOkResponse({
    schema: { type: 'object', additionalProperties: true, description: `The type ${type} of core/.` },
  });
