import { implausible, LIMITS, speedsProblem, type RoadCar, type RoadPass } from '@prandel/core';
import { UnreadableError } from '../problem.ts';
import { formatRecords, parseRecords, RecordReader } from './cells.ts';
import { namesOf, ROAD_COLUMNS } from './columns.ts';
import { part } from './members.ts';

/** Passes of `road_passes.csv`, in its order, and the cells of columns this version does not know. @throws UnreadableError with the line */
export function readRoadPasses(bytes: Uint8Array, path: string) {
  const records = parseRecords(path, bytes, LIMITS.roadPasses);
  const cells: Record<string, string>[] = [];
  const passes = records.rows.map((_, i): RoadPass => {
    const r = new RecordReader(records, i);
    cells.push(r.unknown(namesOf(ROAD_COLUMNS)));
    const needed = (column: string, quantity: 'roadKmH' | 'roadSeconds') =>
      r.plausible(column, quantity) ?? r.fail(`${column} is empty.`);
    const [fromKmH, toKmH] = [needed('from_km_h', 'roadKmH'), needed('to_km_h', 'roadKmH')];
    const wrong = speedsProblem(fromKmH, toKmH);
    if (wrong) r.fail(`${wrong}.`);
    return {
      ...{ setupId: r.required('setup_id'), at: r.instant('at'), direction: r.text('direction') ?? '' },
      ...{ fromKmH, toKmH, seconds: needed('seconds', 'roadSeconds') },
    };
  });
  return { passes, cells };
}

export function roadPassesCsv(
  passes: readonly RoadPass[],
  cells: readonly Readonly<Record<string, string>>[],
  more: readonly string[],
): string {
  return formatRecords(
    [...namesOf(ROAD_COLUMNS), ...more],
    passes.map((p, i) => ({
      ...cells[i],
      ...{ setup_id: p.setupId, at: p.at, direction: p.direction },
      ...{ from_km_h: p.fromKmH, to_km_h: p.toKmH, seconds: p.seconds },
    })),
  );
}

/** The car on the road of the `prandel` object. @throws UnreadableError naming the member that no car has */
export function roadCarOf(value: unknown): RoadCar {
  const road = part(value);
  const known = (name: keyof RoadCar, quantity: Parameters<typeof implausible>[0]) => {
    const own = road[name];
    const wrong = typeof own === 'number' ? implausible(quantity, own) : 'no number';
    if (wrong) throw new UnreadableError(`datapackage.json: road.${name}: ${wrong}.`);
    return own as number;
  };
  return {
    massKg: known('massKg', 'massKg'),
    overallRatio: known('overallRatio', 'overallRatio'),
    tyreRadiusM: known('tyreRadiusM', 'tyreRadiusM'),
    dragAreaM2: road.dragAreaM2 === undefined || road.dragAreaM2 === null ? null : known('dragAreaM2', 'dragAreaM2'),
    rolling: known('rolling', 'rolling'),
  };
}
