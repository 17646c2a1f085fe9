import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import prettier from 'prettier';
import { createGenerator } from 'ts-json-schema-generator';
import { ROOT } from './run.mjs';

/**
 * Writes the schemas of the API's answers that are types of core (server/src/http/coreAnswers.ts), for the document. `--check` only
 * tells whether what is checked in is as it should be (exit code 1 when it is stale).
 */
const ANSWERS = [
  'JobAnswer',
  'BaysAnswer',
  'SheetAnswer',
  'LearnedAnswer',
  'ReportNumbers',
  'SharedAnswer',
  'PartShelfAnswer',
  'OpenSignalsAnswer',
  'BayChartsAnswer',
  'SearchesAnswer',
  'ModelsAnswer',
  'ModelAnswer',
  'FindAnswer',
  'TrendsAnswer',
  'LiveChannelMessage',
];
const FILE = join(ROOT, 'server/src/http/generated/coreSchemas.ts');

const generator = createGenerator({
  path: join(ROOT, 'server/src/http/coreAnswers.ts'),
  tsconfig: join(ROOT, 'tsconfig.schemas.json'),
  skipTypeCheck: true,
  expose: 'export',
  topRef: true,
});
/** Names of the document: those of core bear its name, so that they meet none of the classes of requests. */
const named = (name) => (ANSWERS.includes(name) ? name : `Core${name.replace(/[^A-Za-z0-9]/g, '_')}`);
/** Typed arrays go over the wire as lists of numbers, holes as null. */
const SAMPLES = { type: 'array', items: { type: 'number', nullable: true } };

/** JSON Schema as OpenAPI 3.0 writes it: `nullable` in place of the type null, a list of one in place of a constant. */
function documented(value) {
  if (Array.isArray(value)) return value.map(documented);
  if (typeof value !== 'object' || value === null) return value;
  if (value.properties?.BYTES_PER_ELEMENT) return SAMPLES;
  const { const: constant, ...rest } = value;
  if (typeof rest.type === 'object' && Array.isArray(rest.type)) {
    const types = rest.type.filter((type) => type !== 'null');
    const nullable = types.length < rest.type.length ? { nullable: true } : {};
    if (types.length === 1) return documented({ ...rest, type: types[0], ...nullable });
    return documented({ ...without(rest, 'type'), anyOf: rest.type.map((type) => ({ type })) });
  }
  if (isNull(rest)) return ONLY_NULL;
  const members = Object.fromEntries(
    Object.entries(rest).map(([key, own]) => [key, key === '$ref' ? reference(own) : documented(own)]),
  );
  return constant === undefined ? members : { ...members, enum: [constant] };
}

/** Null alone, which 3.0 has no type for. */
const ONLY_NULL = { type: 'object', nullable: true, enum: [null] };
const isNull = (schema) => schema.type === 'null';
const without = (schema, key) => Object.fromEntries(Object.entries(schema).filter(([own]) => own !== key));
const reference = (to) => `#/components/schemas/${named(decodeURIComponent(to.replace('#/definitions/', '')))}`;

const schemas = {};
for (const answer of ANSWERS)
  for (const [name, schema] of Object.entries(generator.createSchema(answer).definitions))
    schemas[named(name)] = documented(schema);
const sorted = Object.fromEntries(Object.entries(schemas).sort(([a], [b]) => (a < b ? -1 : 1)));
const options = await prettier.resolveConfig(FILE);
const fresh = await prettier.format(
  `// Made by launcher/coreSchemas.mjs (\`npm run api\`) from server/src/http/coreAnswers.ts.\nexport const CORE_SCHEMAS = ${JSON.stringify(sorted)} as const;\n`,
  { ...options, parser: 'typescript' },
);
let before = '';
try {
  before = readFileSync(FILE, 'utf8');
} catch {
  // The first time there is none.
}
if (!process.argv.includes('--check')) writeFileSync(FILE, fresh);
else if (fresh !== before) {
  console.error('server/src/http/generated/coreSchemas.ts is stale: run "npm run api".');
  process.exitCode = 1;
}
