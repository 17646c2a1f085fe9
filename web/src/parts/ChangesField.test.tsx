/** @jest-environment jsdom */
import { expect, test } from '@jest/globals';
import { declared } from '@prandel/core';
import { render, screen } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { useState } from 'react';
import { ChangesField } from './ChangesField.tsx';

type Patch = ReturnType<typeof declared>;

/** The field with what holds its value; each edit is kept. */
function Held({ column, seen }: { column: string; seen: Patch[] }) {
  const [value, setValue] = useState(declared(column));
  return (
    <>
      <ChangesField
        setup="B"
        {...value}
        onEdit={(patch) => {
          seen.push(patch);
          setValue(patch);
        }}
      />
      <button onClick={() => setValue(declared('part fitted: pump from the record'))}>Take a part</button>
    </>
  );
}

test('changes are typed row by row with their kind; a change of fuel declares the fuel, others are declared by hand', async () => {
  const user = userEvent.setup();
  const seen: Patch[] = [];
  render(<Held column="" seen={seen} />);
  await user.type(screen.getByLabelText('Change 1 of B'), 'electric fan ');
  expect(seen.at(-1)).toEqual(declared('part fitted: electric fan'));
  await user.click(screen.getByRole('button', { name: 'One more change' }));
  await user.type(screen.getByLabelText('Change 2 of B'), '98 octane');
  await user.selectOptions(screen.getByLabelText('Kind of change 2 of B'), 'Fuel');
  expect(seen.at(-1)).toEqual(declared('part fitted: electric fan;fuel: 98 octane'));
  await user.click(screen.getByRole('button', { name: 'Hood' }));
  expect(seen.at(-1)!.declares).toEqual(['fuel', 'hood']);
  await user.click(screen.getByRole('button', { name: 'Fuel' }));
  expect(seen.at(-1)!.declares).toEqual(['hood']);
  await user.click(screen.getByRole('button', { name: 'Remove change 1 of B' }));
  expect(seen.at(-1)!.changes.map((c) => c.text)).toEqual(['fuel: 98 octane']);
});

test('what nobody edits keeps its text to the last blank; a part taken from the record replaces what is shown', async () => {
  const user = userEvent.setup();
  const seen: Patch[] = [];
  render(<Held column="part fitted: fan;  hood:  open" seen={seen} />);
  const field = (n: number) => screen.getByLabelText<HTMLInputElement>(`Change ${n} of B`).value;
  expect([field(1), field(2)]).toEqual(['fan', 'open']);
  await user.type(screen.getByLabelText('Change 1 of B'), ' and shroud');
  expect(seen.at(-1)!.changes.map((c) => c.text)).toEqual(['part fitted: fan and shroud', '  hood:  open']);
  await user.click(screen.getByRole('button', { name: 'Take a part' }));
  expect(field(1)).toBe('pump from the record');
});
