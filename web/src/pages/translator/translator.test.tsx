/** @jest-environment jsdom */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { correctionFactor } from '@prandel/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render, screen, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { MemoryRouter } from 'react-router';
import { TranslatorPage } from './TranslatorPage.tsx';

const OWN = [
  {
    id: 'o1',
    name: 'Neighbour',
    kind: 'reference',
    referenceC: 25,
    referenceHpa: 990,
    pressure: 'dry',
    mechanicalEfficiency: 1 / 1.18,
    factor: null,
  },
  {
    id: 'o2',
    name: 'Sheet of 12 May',
    kind: 'factor',
    referenceC: null,
    referenceHpa: null,
    pressure: null,
    mechanicalEfficiency: null,
    factor: 1.05,
  },
];
const AIR = { airC: 20, pressureHpa: 1000, relativeHumidity: 0.5 };

beforeEach(() => {
  const client = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity } } });
  client.setQueryData(['session'], {
    shop: 'Quillmoor Garage',
    name: 'Ines R.',
    email: 'x',
    role: 'technician',
    units: {},
  });
  client.setQueryData(['standards'], OWN);
  render(
    <QueryClientProvider client={client}>
      <MemoryRouter>
        <TranslatorPage />
      </MemoryRouter>
    </QueryClientProvider>,
  );
});
afterEach(cleanup);

const table = () => screen.getByRole('region', { name: 'Under each standard' });
const row = (name: RegExp) => within(table()).getByText(name).closest('tr')!.textContent;
const type = async (label: string, value: string) => {
  const field = screen.getByLabelText(new RegExp(`^${label}`));
  await userEvent.clear(field);
  if (value !== '') await userEvent.type(field, value);
};

describe('the translator', () => {
  test('100 kW of an older sheet are fewer under SAE J1349 and uncorrected, by the factors of the standards', () => {
    const [old, sae] = [correctionFactor('sae-j607', AIR).factor, correctionFactor('sae-j1349', AIR).factor];
    expect(row(/SAE J1349/)).toContain(((100 / old) * sae).toFixed(1));
    expect(row(/^Uncorrected/)).toContain((100 / old).toFixed(1));
    // The shop's own standard is J1349 by other figures.
    expect(row(/^Neighbour/)).toContain(((100 / old) * sae).toFixed(1));
    expect(row(/^Sheet of 12 May/)).toContain(((100 / old) * 1.05).toFixed(1));
    expect(table().textContent).toMatch(/Between the standards: \d+\.\d to \d+\.\d kW, \d+\.\d % apart/);
  });

  test('a printed factor is believed, and stands beside the computed one', async () => {
    await type('Printed factor', '1,04');
    const computed = correctionFactor('sae-j607', AIR).factor.toFixed(3);
    expect(screen.getByText(`Printed 1.040, computed ${computed}. The printed one is believed.`)).toBeTruthy();
    expect(row(/^Uncorrected/)).toContain((100 / 1.04).toFixed(1));
  });

  test('the standard for compression ignition asks for its figures, and has a row once they are there', async () => {
    expect(within(table()).queryByText(/compression ignition/)).toBeNull();
    await userEvent.click(screen.getByLabelText('A compression-ignition engine'));
    expect(row(/compression ignition/)).toContain('Needs the engine’s fuel and boost.');
    await type('Fuel per litre and cycle', '52');
    await type('Boost pressure ratio', '1.9');
    const engine = { turbocharged: true, fuelMgPerLitreCycle: 52, boostPressureRatio: 1.9 };
    expect(row(/compression ignition/)).toContain(correctionFactor('iso-1585-ci', AIR, engine).factor.toFixed(4));
  });

  test('weather outside a standard’s validity is flagged; weather that is none is asked for again', async () => {
    await type('Air, °C', '44');
    expect(row(/SAE J1349/)).toContain('air outside 15–35 °C');
    await type('Station, hPa', '29.92');
    expect(table().textContent).toContain('Station pressure from 500 to 1100 hPa');
    expect(within(table()).queryByText(/SAE J1349/)).toBeNull();
  });

  test('a curve file brings its peak, its standard, its factor and its weather', async () => {
    const said = { standard: 'din-70020', factor: 1.031, airC: 26.5, pressureHpa: 987, relativeHumidity: 0.4 };
    const pulls = [
      { name: 'run 1', peakPowerW: 98_400, peakTorqueNm: 170, ...said },
      { name: 'run 2', peakPowerW: 97_100, peakTorqueNm: 169, ...said, factor: null },
    ];
    const before = globalThis.fetch;
    globalThis.fetch = () => Promise.resolve({ ok: true, status: 201, json: () => Promise.resolve(pulls) } as Response);
    try {
      await userEvent.upload(screen.getByLabelText('Curve file'), new File(['x'], 'sheet.csv'));
      expect(await screen.findByDisplayValue('98.4')).toBeTruthy();
      expect(row(/DIN 70020/)).toContain('the sheet');
      expect(row(/^Uncorrected/)).toContain((98.4 / 1.031).toFixed(1));
      await userEvent.selectOptions(screen.getByLabelText('Pull of the file'), 'run 2');
      const factor = correctionFactor('din-70020', said).factor;
      expect(row(/^Uncorrected/)).toContain((97.1 / factor).toFixed(1));
    } finally {
      globalThis.fetch = before;
    }
  });
});
