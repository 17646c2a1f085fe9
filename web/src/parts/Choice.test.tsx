/** @jest-environment jsdom */
import { expect, jest, test } from '@jest/globals';
import { render, screen, waitFor } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { Choice } from './Choice.tsx';

const WIDTHS = [
  ['0', 'no averaging'],
  ['200', '200 rpm'],
  ['400', '400 rpm'],
] as const;

test('a choice is made with the keys: they begin at what is chosen, and the page below stays as it is', async () => {
  const onChange = jest.fn<(value: string) => void>();
  render(<Choice label="Averaging width" value="200" options={WIDTHS} onChange={onChange} />);
  const user = userEvent.setup();
  await user.tab();
  expect(document.activeElement).toBe(screen.getByRole('button', { name: 'Averaging width: 200 rpm' }));
  await user.keyboard('{Enter}');
  await waitFor(() => expect(document.activeElement?.textContent).toBe('200 rpm'));
  expect(screen.getByRole('menuitemradio', { checked: true })).toBe(document.activeElement);
  expect(document.body.getAttribute('style') ?? '').not.toContain('pointer-events');
  await user.keyboard('{ArrowDown}{Enter}');
  expect(onChange.mock.calls).toEqual([['400']]);
  await waitFor(() => expect(screen.queryAllByRole('menuitemradio')).toHaveLength(0));
  await user.keyboard('{Enter}');
  await screen.findAllByRole('menuitemradio');
  await user.keyboard('{Escape}');
  await waitFor(() => expect(screen.queryAllByRole('menuitemradio')).toHaveLength(0));
  expect(onChange.mock.calls).toHaveLength(1);
});
