import type { Setup } from '@prandel/core';
import { ChangesField } from '../../parts/ChangesField.tsx';
import { Field, Input } from '../../parts/Field.tsx';

/** What belongs to a setup besides its state: declared changes, cost, hours, whether the car was unstrapped, the law. */
export function SetupDetails({ setup: s, onEdit }: { setup: Setup; onEdit: (patch: Partial<Setup>) => void }) {
  const number = (text: string) => (text === '' || !Number.isFinite(Number(text)) ? null : Number(text));
  return (
    <fieldset className="mt-2 grid grid-cols-2 gap-x-3 gap-y-2">
      <legend className="sr-only">Setup {s.id}</legend>
      <div className="col-span-2">
        <ChangesField setup={s.id} changes={s.changes} declares={s.declares} onEdit={onEdit} />
      </div>
      <Field label={`Cost of ${s.id}`}>
        <Input
          type="number"
          step="any"
          min={0}
          value={s.partCost ?? ''}
          onChange={(e) => onEdit({ partCost: number(e.target.value) })}
        />
      </Field>
      <Field label="Currency">
        <Input value={s.currency ?? ''} maxLength={20} onChange={(e) => onEdit({ currency: e.target.value || null })} />
      </Field>
      <Field label="Fitting hours">
        <Input
          type="number"
          step="any"
          min={0}
          value={s.labourHours ?? ''}
          onChange={(e) => onEdit({ labourHours: number(e.target.value) })}
        />
      </Field>
      <Field label="Supplier">
        <Input
          value={s.supplier ?? ''}
          maxLength={200}
          onChange={(e) => onEdit({ supplier: e.target.value || null })}
        />
      </Field>
      <label className="col-span-2 flex items-center gap-2">
        <input type="checkbox" checked={s.remounted} onChange={(e) => onEdit({ remounted: e.target.checked })} />
        The car was unstrapped and mounted again for {s.id}
      </label>
      {s.parentId !== null && s.returnsTo === null && (
        <label className="col-span-2 flex items-center gap-2">
          <input
            type="checkbox"
            checked={s.permanent ?? false}
            onChange={(e) => onEdit({ permanent: e.target.checked })}
          />
          {s.id} cannot come off again: whatever runs after it has it on
        </label>
      )}
      <label className="col-span-2 flex items-center gap-2">
        <input
          type="checkbox"
          checked={s.closedCourseOnly}
          onChange={(e) => onEdit({ closedCourseOnly: e.target.checked })}
        />
        {s.id} is for a closed course only: can be unlawful on the road
      </label>
    </fieldset>
  );
}
