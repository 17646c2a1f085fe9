import canonicalize from 'canonicalize';

/**
 * The canonical text of a JSON value: members sorted, no spaces, numbers as ECMAScript prints them (RFC 8785, JSON
 * Canonicalization Scheme).
 * @throws TypeError for what JSON has no text for: undefined, NaN, infinities
 * @example canonicalJson({ b: 1, a: [true, null] }) // '{"a":[true,null],"b":1}'
 */
export function canonicalJson(value: unknown): string {
  const text = canonicalize(value);
  if (text === undefined) throw new TypeError('There is no JSON text for this value.');
  return text;
}
