/** Tables of PostgreSQL, one file a subject. What has an identity has an id; no row can point into another shop. */
export * from './schema/people.ts';
export * from './schema/records.ts';
export * from './schema/bays.ts';
export * from './schema/jobs.ts';
export * from './schema/questions.ts';
export * from './schema/setups.ts';
export * from './schema/jobDays.ts';
export * from './schema/files.ts';
export * from './schema/road.ts';
export * from './schema/use.ts';
export * from './schema/loggers.ts';
export * from './schema/pulls.ts';
export * from './schema/derived.ts';
export * from './schema/search.ts';
export * from './schema/shelf.ts';
export * from './schema/seals.ts';
export * from './schema/partShelves.ts';
