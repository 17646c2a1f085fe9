import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { TestShop } from '../test/shop.ts';

let shop: TestShop;
const ask: TestShop['ask'] = (...asked) => shop.ask(...asked);
beforeAll(async () => {
  shop = await TestShop.open(process.env.SIGNIN_DATABASE_URL);
});
afterAll(() => shop?.close());

describe('people', () => {
  test('nobody gets in without a session, with a wrong password, or by a second first start', async () => {
    expect((await ask('GET', '/api/jobs', undefined, '')).status).toBe(401);
    expect(
      (await ask('POST', '/api/session', { email: 'ines@quillmoor.example', password: 'wrong' }, '')).body,
    ).toMatchObject({ status: 401, detail: 'E-mail and password do not belong together.' });
    expect(
      (
        await ask('POST', '/api/first-start', {
          shop: 'Other',
          name: 'X',
          email: 'x@y.example',
          password: 'long enough here',
          setupCode: 'x',
        })
      ).status,
    ).toBe(409);
    expect(
      (await ask('POST', '/api/first-start', { shop: '', name: 'X', email: 'nonsense', password: 'short' })).body,
    ).toMatchObject({
      status: 400,
      errors: expect.arrayContaining([expect.objectContaining({ path: 'email' })]) as unknown,
    });
  });

  test('units are checked before they are kept', async () => {
    expect((await ask('PATCH', '/api/session/units', { units: { power: 'hp' } })).status).toBe(204);
    expect((await ask('GET', '/api/session')).body).toMatchObject({ units: { power: 'hp' } });
    expect((await ask('PATCH', '/api/session/units', { units: { power: '°C' } })).status).toBe(400);
  });
});
