import { expect } from '@jest/globals';
import type { OpenAPIObject } from '@nestjs/swagger';
import type { TestShop } from './shop.ts';

export const PASSWORD = 'three settle pulls';

type Body = Record<string, unknown> & { id: string; secret: string; message?: string };

/** Asks as one person or another, by their cookie. */
export async function askAs(shop: TestShop, as: string, method: string, path: string, body?: unknown) {
  const answer = await shop.ask(method, path, body, as);
  const of: Body = answer.body;
  return { ...answer, body: of };
}

/** Uses a one-time link up. @returns the cookie of who came in */
export async function join(shop: TestShop, secret: string, name: string): Promise<string> {
  const joined = await askAs(shop, '', 'POST', '/api/links/use', { secret, name, password: PASSWORD });
  expect(joined.status).toBe(200);
  return joined.headers.get('set-cookie')!.split(';')[0]!;
}

/** The people of the shop and its open invitations. */
export async function teamOf(shop: TestShop, as: string) {
  return (await askAs(shop, as, 'GET', '/api/people')).body as unknown as {
    people: { id: string; email: string; role: string; version: number }[];
    invitations: { id: string; email: string }[];
  };
}

export const STRANGER = '11111111-1111-4111-8111-111111111111';

/** Every operation of the document with parameters filled in. */
export function operations(
  document: OpenAPIObject,
  fill: (name: string, path: string) => string,
): { method: string; path: string; url: string }[] {
  return Object.entries(document.paths).flatMap(([path, of]) =>
    Object.keys(of as object).map((method) => ({
      method: method.toUpperCase(),
      path,
      url: path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(fill(name, path))),
    })),
  );
}
