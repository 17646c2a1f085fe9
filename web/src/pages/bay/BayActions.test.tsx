/** @jest-environment jsdom */
import { describe, expect, jest, test } from '@jest/globals';
import type { LiveSheet, SheetState } from '@prandel/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, cleanup, render, screen, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { read } from '../../test/textOf.ts';
import { BayActions, type Act, type SheetAction } from './BayActions.tsx';
import { OVERRIDE_REASONS, SET_ASIDE_REASONS } from './bayStyles.ts';
import { setups, sheetOf, verdictOn } from '../../test/sheets.ts';

const hold = (ms: number) => act(() => Promise.resolve(void jest.advanceTimersByTime(ms)));

const shown = (sheet: LiveSheet, does: Act = () => undefined) => {
  cleanup();
  return render(
    <QueryClientProvider client={new QueryClient()}>
      <BayActions sheet={sheet} act={does} />
    </QueryClientProvider>,
  );
};
const buttons = (sheet: LiveSheet) => within(shown(sheet).container).queryAllByRole('button').map(read);

describe('four actions at most', () => {
  test.each<[SheetState, string[]]>([
    [
      'hold',
      [
        'Set pull 2 aside',
        'Extra settle pull',
        'Close round early',
        'Start pull 3 opens at READY. Press 3 s to override',
      ],
    ],
    ['ready', ['Set pull 2 aside', 'Extra settle pull', 'Close round early']],
    ['review', ['It counts', 'Set pull 2 aside']],
    ['stop', ['I have looked. Go on']],
    ['pulling', []],
    ['fitting', ['Stop the fitting clock: is on']],
    ['between', ['Go on with the round of B', 'Start fitting A2', 'Another round of B', 'Car off the rollers']],
    [
      'blocked',
      [
        'Fan is set to 3 now',
        'Extra settle pull',
        'Close round early',
        'Start pull 3 opens at READY. Press 3 s to override',
      ],
    ],
  ])('%s', (state, expected) => {
    const fan = { key: 'fan', label: 'Fan', baseline: '3', now: state === 'blocked' ? '1' : '3', declared: false };
    expect(buttons(sheetOf(state, {}, { setPoints: [fan] }))).toEqual(expected);
  });

  test('between rounds the plan says what comes next: the drawn setup, or the same one again after a hold', () => {
    const done = { ...sheetOf('between').round!, complete: true };
    expect(buttons(sheetOf('between', { nextSetup: 'A', round: done }))).toEqual([
      'Start fitting A',
      'Another round of B',
      'Fit another setup',
      'Car off the rollers',
    ]);
    const odd = { ...done, pulls: done.pulls.map((p) => ({ ...p, odd: { likelyPercent: 60 } })) };
    expect(buttons(sheetOf('between', { nextSetup: 'A', round: odd })).slice(0, 2)).toEqual([
      'One pull more of B',
      'Start fitting A',
    ]);
    const again = sheetOf('between', { nextSetup: 'B', round: { ...sheetOf('between').round!, complete: true } });
    expect(buttons(again)[0]).toBe('Another round of B');
  });

  test('an open question offers the rounds that would settle it, and says whether they were declared', () => {
    const extension = {
      rounds: [
        { setup: 'B', settle: 2, counted: 3 },
        { setup: 'A2', settle: 2, counted: 3 },
      ],
      minutes: 148,
    };
    const verdicts = [verdictOn('B', 'not-resolved', 600)];
    const open = (declared: boolean) =>
      sheetOf('between', { verdicts, planComplete: true, extension: { ...extension, declared } });
    expect(buttons(open(true))[0]).toBe('Go on with 3 of B, then 3 of A2 the declared extension');
    expect(buttons(open(false))[0]).toBe('Go on with 3 of B, then 3 of A2 not declared: the report says so');
    expect(buttons(open(false)).slice(1)).toEqual([
      'Another round of B not planned: the report says so',
      'Car off the rollers',
    ]);
  });

  test('with more setups than one beside the plan, somebody is asked which is fitted instead', () => {
    const more = [...setups, { id: 'C', label: 'both', returnsTo: null }];
    const sheet = sheetOf('between', { nextSetup: 'A2', round: { ...sheetOf('between').round!, complete: true } });
    const asked = buttons({ ...sheet, job: { ...sheet.job!, setups: more } });
    expect(asked).toEqual(['Start fitting A2', 'Another round of B', 'Fit another setup', 'Car off the rollers']);
  });

  test('something new goes on with one tap, on top of what is on the car or of the baseline', async () => {
    const done = sheetOf('between', { planComplete: true });
    const taken: SheetAction[] = [];
    shown(done, (action) => taken.push(action));
    await userEvent.click(screen.getByRole('button', { name: 'Fit something new' }));
    await userEvent.click(screen.getByRole('button', { name: 'Something new, on top of B' }));
    expect(taken).toEqual([{ action: 'fit-new', parent: 'B' }]);
  });

  test('while the clock runs a photo can be taken with the tablet in the hand', () => {
    const fitting = { setup: 'B', startedAt: '2026-11-23T14:00:00.000Z' };
    shown(sheetOf('fitting', { fitting }));
    const camera = screen.getByLabelText<HTMLInputElement>('Add a photo', { selector: 'input' });
    expect(camera.type).toBe('file');
    expect(camera.accept).toMatch(/^image/);
    expect(camera.getAttribute('capture')).toBe('environment');
  });

  test('an override that was given can be withdrawn; nothing offers to give a second one', () => {
    expect(buttons(sheetOf('hold', { override: { reason: 'No time left' } })).at(-1)).toBe('Withdraw the override');
  });

  test('at the start there is one thing to do: start the round', () => {
    const round = { ...sheetOf('between').round!, setup: 'A', pulls: [], countedSoFar: 0 };
    expect(buttons(sheetOf('between', { round }))).toEqual([
      'Start the round of A all of that was looked at',
      'Car off the rollers',
    ]);
  });

  test('a pull is set aside by a tap and a reason, or by a key and a digit; Escape asks nothing', async () => {
    const user = userEvent.setup();
    const does = jest.fn((_: unknown) => undefined);
    shown(sheetOf('review'), does);
    await user.click(screen.getByRole('button', { name: 'Set pull 2 aside' }));
    expect(screen.getByRole('group', { name: 'Why is pull 2 set aside?' })).toBeTruthy();
    await user.click(screen.getByRole('button', { name: SET_ASIDE_REASONS[1] }));
    expect(does).toHaveBeenLastCalledWith({ action: 'set-aside', pull: 'B-2', reason: SET_ASIDE_REASONS[1] });
    expect(screen.getByRole('button', { name: 'It counts' })).toBeTruthy();
    await user.keyboard('a1');
    expect(does).toHaveBeenLastCalledWith({ action: 'set-aside', pull: 'B-2', reason: SET_ASIDE_REASONS[0] });
    await user.keyboard('a{Escape}1');
    expect(does).toHaveBeenCalledTimes(3);
    expect(does).toHaveBeenLastCalledWith({ action: 'keep' });
  });

  test('a space says that a pull counts, and nothing where there is nothing to say', async () => {
    const user = userEvent.setup();
    const does = jest.fn((_: unknown) => undefined);
    shown(sheetOf('review'), does);
    await user.keyboard(' ');
    expect(does.mock.calls).toEqual([[{ action: 'keep' }]]);
    shown(sheetOf('pulling'), does);
    await user.keyboard(' ');
    expect(does).toHaveBeenCalledTimes(1);
  });

  test('the gate is overridden by a press of three seconds and a reason, never by a tap', async () => {
    jest.useFakeTimers();
    try {
      const user = userEvent.setup({ advanceTimers: (ms) => jest.advanceTimersByTime(ms) });
      const does = jest.fn((_: unknown) => undefined);
      shown(sheetOf('hold'), does);
      const start = screen.getByRole('button', { name: /^Start pull 3/ });
      await user.click(start);
      expect(screen.queryByRole('group', { name: 'Why is the gate overridden?' })).toBeNull();
      await user.pointer({ keys: '[MouseLeft>]', target: start });
      await hold(3200);
      await user.pointer({ keys: '[/MouseLeft]' });
      await user.click(screen.getByRole('button', { name: OVERRIDE_REASONS[0] }));
      expect(does.mock.calls).toEqual([[{ action: 'override', reason: OVERRIDE_REASONS[0] }]]);
    } finally {
      jest.useRealTimers();
    }
  });
});
