import {
  implausible,
  implausibleInstant,
  implausibleText,
  implausibleTimeZone,
  implausibleWindow,
  isMeasureId,
  measuresProblem,
  type DeclaredMeasure,
  type PlausibleQuantity,
} from '@prandel/core';
import { deviceHostProblem } from '../security/deviceNetworks.ts';
import { IsDefined, registerDecorator, ValidateIf, ValidateNested } from 'class-validator';
import { Type } from 'class-transformer';

/** A decorator for what the core says of a value: null, or what is wrong with it. */
function check(name: string, wrong: (value: unknown) => string | null): PropertyDecorator {
  return (target, key) =>
    registerDecorator({
      name,
      target: target.constructor,
      propertyName: String(key),
      validator: {
        validate: (value: unknown) => wrong(value) === null,
        defaultMessage: (at) => {
          const why = wrong(at?.value) ?? 'is wrong';
          return `${why[0]!.toUpperCase()}${why.slice(1)}.`;
        },
      },
    });
}

/** A number that can be what it is said to be, with a hint where it looks like another unit. */
export const Plausible = (quantity: PlausibleQuantity) =>
  check('plausible', (value) =>
    typeof value === 'number' ? implausible(quantity, value) : `${quantity} is no number`,
  );

/** An ISO 8601 instant between 1990 and 2100. */
export const Instant = () =>
  check('instant', (value) => (typeof value === 'string' ? implausibleInstant(value) : 'this is no date and time'));

/** An IANA time zone. */
export const TimeZone = () =>
  check('timeZone', (value) => (typeof value === 'string' ? implausibleTimeZone(value) : 'this is no time zone'));

/** Two rising engine speeds. */
export const RpmWindow = () => check('rpmWindow', implausibleWindow);

/** Measures that a question may be asked of together. */
export const AskedMeasures = () =>
  check('askedMeasures', (value) =>
    Array.isArray(value) &&
    value.every((m) => typeof m === 'object' && m !== null && isMeasureId(String((m as { id?: unknown }).id)))
      ? measuresProblem(value as DeclaredMeasure[])
      : 'this is no list of measures',
  );

/** An object that holds only numbers, or only short texts. */
export const TableOf = (kind: 'number' | 'text', most = 100) =>
  check('tableOf', (value) => {
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return 'this is no object';
    const entries = Object.entries(value);
    if (entries.length > most) return `at most ${most} members are taken`;
    for (const [name, entry] of entries) {
      if (kind === 'number' && !(typeof entry === 'number' && Number.isFinite(entry))) return `${name} is no number`;
      if (kind === 'text' && typeof entry !== 'string') return `${name} is no text`;
      const wrong = typeof entry === 'string' ? implausibleText(entry, 2000) : null;
      if (wrong) return `${name} is ${wrong}`;
    }
    return null;
  });

/** A host in a network where the operator allows instruments. */
export const DeviceHost = () =>
  check('deviceHost', (value) => (typeof value === 'string' ? deviceHostProblem(value) : 'this is no host'));

/** Two finite numbers, the first not above the second. */
export const NumberPair = () =>
  check('numberPair', (value) =>
    Array.isArray(value) && value.length === 2 && value.every((v) => Number.isFinite(v)) && value[0] <= value[1]
      ? null
      : 'this is no pair of rising numbers',
  );

/** The three coefficients of a loss torque, each finite and of a size that rollers have. */
export const LossTorque = () =>
  check('lossTorque', (value) =>
    Array.isArray(value) && value.length === 3 && value.every((v) => Number.isFinite(v) && Math.abs(v as number) <= 1e4)
      ? null
      : 'these are no three coefficients of a loss torque',
  );

/** Null, absent, or what the other decorators want. */
export const OrNull = () => ValidateIf((_, value: unknown) => value !== undefined && value !== null);

/** A nested object that must be there. */
export const Nested =
  (type: () => new () => object): PropertyDecorator =>
  (target, key) => {
    IsDefined()(target, String(key));
    check('object', (value) =>
      typeof value === 'object' && value !== null && !Array.isArray(value) ? null : 'this is no object',
    )(target, key);
    ValidateNested()(target, String(key));
    Type(type)(target, String(key));
  };

/** A list of nested objects, none of them missing. */
export const NestedList =
  (type: () => new () => object, most: number): PropertyDecorator =>
  (target, key) => {
    check('objects', (value) => {
      if (!Array.isArray(value)) return 'this is no list';
      if (value.length > most) return `at most ${most} entries are taken`;
      return value.every((entry) => typeof entry === 'object' && entry !== null && !Array.isArray(entry))
        ? null
        : 'an entry is no object';
    })(target, key);
    ValidateNested({ each: true })(target, String(key));
    Type(type)(target, String(key));
  };

/** The version of a row that was read before an edit. */
export const Version = () =>
  check('version', (value) =>
    Number.isInteger(value) && Number(value) >= 0 && Number(value) < 2 ** 31 ? null : 'this is no version',
  );
