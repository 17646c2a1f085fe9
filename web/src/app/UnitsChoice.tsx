import { USUAL_UNITS } from '@prandel/presentation';
import { useMutation } from '@tanstack/react-query';
import { Ruler } from 'lucide-react';
import { Popover } from 'radix-ui';
import { ask, queries } from '../api/client.ts';
import { useUnits } from '../api/hooks.ts';
import { Choice } from '../parts/Choice.tsx';

const UNIT_CHOICES = {
  power: ['kW', 'hp', 'PS'],
  torque: ['N·m', 'lb·ft', 'kgf·m'],
  temperature: ['°C', '°F'],
  pressure: ['hPa', 'kPa', 'inHg', 'mmHg', 'psi', 'bar'],
} as const;

/** The person’s units, open at once: whoever loads it has asked for it. */
export function UnitsChoice() {
  const units = useUnits();
  const change = useMutation({
    mutationFn: (next: Record<string, string>) => ask('patch', '/api/session/units', { body: { units: next } }),
    onMutate: (next) => queries.setQueryData(['session'], (old: object | undefined) => old && { ...old, units: next }),
    onError: () => queries.invalidateQueries({ queryKey: ['session'] }),
  });
  return (
    <Popover.Root defaultOpen>
      <Popover.Trigger className="btn sm">
        <Ruler size={13} aria-hidden />
        Units
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="pop grid gap-2.5" sideOffset={6} align="end" aria-label="Units">
          {(Object.keys(UNIT_CHOICES) as (keyof typeof UNIT_CHOICES)[]).map((quantity) => (
            <div key={quantity} className="flex items-center justify-between gap-6">
              <span className="capitalize">{quantity}</span>
              <Choice
                label={`Unit of ${quantity}`}
                value={units[quantity] as string}
                options={UNIT_CHOICES[quantity].map((u) => [u as string, u as string] as const)}
                onChange={(u) => change.mutate({ ...USUAL_UNITS, ...units, [quantity]: u })}
              />
            </div>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
