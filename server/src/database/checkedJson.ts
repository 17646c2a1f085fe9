import { customType } from 'drizzle-orm/pg-core';

/** A row holds JSON that is not what its column should hold; written by another version, or by hand. */
export class ShapeError extends Error {
  constructor(column: string) {
    super(`What is stored in ${column} is not what belongs there. "./prandel check" looks at every row.`);
  }
}

/** A jsonb column whose shape is looked at whenever it is read. @throws ShapeError from a query that reads anything else */
export const checkedJson = <T>(name: string, is: (value: unknown) => value is T) =>
  customType<{ data: T; driverData: unknown }>({
    dataType: () => 'jsonb',
    toDriver: (value) => JSON.stringify(value),
    fromDriver: (value) => {
      if (!is(value)) throw new ShapeError(name);
      return value;
    },
  })(name);
