import { Body, Controller, Get, HttpCode, Post } from '@nestjs/common';
import { ApiNoContentResponse, ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { KeyChangeRequest, ShopKeyAnswer, type KnownKey } from './seals.dto.ts';
import { fingerprintOf, ShopKeys, type KeyRow } from './shopKeys.ts';

/** The key under which the shop seals. */
@ApiTags('seals')
@Access({ read: 'viewer', change: 'owner' })
@Controller('api/key')
export class ShopKeysController {
  constructor(private readonly keys: ShopKeys) {}

  @Get()
  @ApiOkResponse({ type: ShopKeyAnswer })
  async read(@CurrentUser() { shopId }: Caller): Promise<ShopKeyAnswer> {
    const { key, state, history } = await this.keys.standing(shopId);
    return { key: known(key), state, file: `keys/${shopId}.pem`, history: history.map(known) };
  }

  @Post('change')
  @HttpCode(204)
  @ApiNoContentResponse()
  change(@CurrentUser() { shopId, shop, name }: Caller, @Body() { lost }: KeyChangeRequest): Promise<void> {
    return this.keys.change(shopId, shop, name, lost);
  }
}

function known(row: KeyRow): KnownKey {
  const { publicKey, madeBy, changeText, changeSignature } = row;
  return {
    ...{ publicKey, madeBy, changeText, changeSignature, fingerprint: fingerprintOf(row) },
    madeAt: row.madeAt.toISOString(),
    retiredAt: row.retiredAt?.toISOString() ?? null,
  };
}
