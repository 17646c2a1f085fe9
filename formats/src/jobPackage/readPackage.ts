import { jobProblem, type Change, type Job } from '@prandel/core';
import { UnreadableError } from '../problem.ts';
import { readChanges } from './changesTable.ts';
import { part, safePath, type Json } from './members.ts';
import { assemble } from './readJobDay.ts';
import { useOfTheCar } from './useOfTheCar.ts';
import { readReadings } from './readingsTable.ts';
import { readRoadPasses, roadCarOf } from './roadTable.ts';
import { readPulls, readSetups, readWeather } from './readTables.ts';
import type { PackageFiles } from './packageFiles.ts';

export const FORMAT_VERSION = 1;

/** What a package carries beyond what this version understands; it survives a round trip. */
export interface PackageExtras {
  readonly descriptor: Json;
  readonly setupCells: Readonly<Record<string, Readonly<Record<string, string>>>>;
  readonly pullCells: Readonly<Record<string, Readonly<Record<string, string>>>>;
  readonly weatherCells: readonly Readonly<Record<string, string>>[];
  readonly readingCells?: readonly Readonly<Record<string, string>>[];
  readonly roadCells?: readonly Readonly<Record<string, string>>[];
  /** Files that are no part of a job as this version knows it, by path. */
  readonly files: ReadonlyMap<string, Uint8Array>;
}

export interface JobPackage {
  readonly job: Job;
  readonly extras: PackageExtras;
}

/**
 * Rebuilds a job from the files of a package. Lenient on form (missing schemas, LF or CRLF, one folder at the top,
 * undeclared channel files), strict on meaning.
 * @throws UnreadableError saying what is wrong and where; nothing is returned halfway
 */
export function readPackage(all: PackageFiles): JobPackage {
  const files = withoutTopFolder(all);
  const descriptor = readDescriptor(files);
  const prandel = object(descriptor.prandel, 'prandel');
  const version = prandel.formatVersion;
  if (typeof version !== 'number') throw new UnreadableError('datapackage.json: prandel.formatVersion is missing.');
  if (version > FORMAT_VERSION)
    throw new UnreadableError(
      `This package was written by a newer version (format ${version}); this one reads format ${FORMAT_VERSION}. Update first.`,
    );
  const setupPath = resourcePath(descriptor, 'setups');
  const pullPath = resourcePath(descriptor, 'pulls');
  const weatherPath = resourcePath(descriptor, 'weather');
  const changesPath = resourcePath(descriptor, 'changes');
  const roadPath = resourcePath(descriptor, 'road_passes');
  const readingsPath = resourcePath(descriptor, 'readings');
  const used = new Set(['datapackage.json', setupPath, pullPath, weatherPath, changesPath, roadPath, readingsPath]);
  const changes = files.has(changesPath)
    ? readChanges(files.get(changesPath)!, changesPath)
    : new Map<string, Change[]>();
  const setups = readSetups(required(files, setupPath), setupPath, changes);
  const pulls = readPulls(required(files, pullPath), pullPath, files, used);
  const weather = files.has(weatherPath)
    ? readWeather(files.get(weatherPath)!, weatherPath)
    : { readings: [], cells: [] };
  const road = files.has(roadPath) ? readRoadPasses(files.get(roadPath)!, roadPath) : { passes: [], cells: [] };
  const hand = files.has(readingsPath)
    ? readReadings(files.get(readingsPath)!, readingsPath)
    : { readings: [], cells: [] };
  const job: Job = {
    ...assemble(prandel, descriptor, setups.setups, pulls.pulls, weather.readings),
    ...(road.passes.length > 0 ? { roadPasses: road.passes } : {}),
    ...(hand.readings.length > 0 ? { readings: hand.readings } : {}),
    ...(prandel.road ? { road: roadCarOf(prandel.road) } : {}),
    ...useOfTheCar(prandel),
  };
  checkReferences(job, [...changes.keys()]);
  const problem = jobProblem(job);
  if (problem) throw new UnreadableError(`The package cannot be judged. ${problem.text}`);
  return {
    job,
    extras: {
      descriptor,
      setupCells: setups.cells,
      pullCells: pulls.cells,
      weatherCells: weather.cells,
      roadCells: road.cells,
      readingCells: hand.cells,
      files: new Map([...files].filter(([path]) => !used.has(path))),
    },
  };
}

function withoutTopFolder(files: PackageFiles): PackageFiles {
  const at = [...files.keys()]
    .filter((p) => p === 'datapackage.json' || /^[^/]+\/datapackage\.json$/.test(p))
    .sort((a, b) => a.length - b.length)[0];
  if (!at)
    throw new UnreadableError('There is no datapackage.json at the top of the package, so this is not a job package.');
  const prefix = at.slice(0, -'datapackage.json'.length);
  return new Map([...files].filter(([p]) => p.startsWith(prefix)).map(([p, bytes]) => [p.slice(prefix.length), bytes]));
}

function readDescriptor(files: PackageFiles): Json {
  const text = new TextDecoder('utf-8').decode(files.get('datapackage.json')).replace(/^\uFEFF/, '');
  try {
    return object(JSON.parse(text), 'datapackage.json');
  } catch (error) {
    if (error instanceof UnreadableError) throw error;
    throw new UnreadableError(`datapackage.json is not valid JSON (${(error as Error).message}).`);
  }
}

function object(value: unknown, name: string): Json {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new UnreadableError(`datapackage.json: "${name}" is missing or not an object.`);
  return value as Json;
}

function resourcePath(descriptor: Json, name: string): string {
  const resources = Array.isArray(descriptor.resources) ? (descriptor.resources as Json[]) : [];
  const found = resources.find((r) => part(r).name === name);
  const path = part(found).path;
  return typeof path === 'string' ? safePath(path) : `${name}.csv`;
}

function required(files: PackageFiles, path: string): Uint8Array {
  const bytes = files.get(path);
  if (!bytes) throw new UnreadableError(`${path} is missing from the package.`);
  return bytes;
}

function checkReferences(job: Job, changed: readonly string[]): void {
  const ids = new Set(job.setups.map((s) => s.id));
  const missing = (id: string, where: string) => {
    if (!ids.has(id)) throw new UnreadableError(`${where} names setup "${id}", which setups.csv does not have.`);
  };
  missing(job.question.baselineSetup, 'The question');
  job.question.candidateSetups.forEach((id) => missing(id, 'The question'));
  changed.forEach((id) => missing(id, 'changes.csv'));
  job.pulls.forEach((pull) => missing(pull.setupId, `Pull ${pull.id}`));
  const pulls = new Set(job.pulls.map((p) => p.id));
  job.readings?.forEach(({ pullId }, i) => {
    if (!pulls.has(pullId))
      throw new UnreadableError(`Line ${i + 2} of readings.csv names pull "${pullId}", which pulls.csv does not have.`);
  });
  job.roadPasses?.forEach((pass, i) => missing(pass.setupId, `Line ${i + 2} of road_passes.csv`));
  job.setups.forEach((setup) => setup.returnsTo && missing(setup.returnsTo, `Setup ${setup.id}`));
}
