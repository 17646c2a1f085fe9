import { Check, ChevronDown } from 'lucide-react';
import { getNonce } from 'get-nonce';
import { Select } from 'radix-ui';

/** A drop-down of a few choices; keyboard as the platform expects. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}) {
  return (
    <Select.Root value={value} onValueChange={(v) => onChange(v as T)}>
      <Select.Trigger className="btn sm" aria-label={label}>
        <Select.Value />
        <Select.Icon>
          <ChevronDown size={13} aria-hidden />
        </Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content className="pop !p-1" position="popper" sideOffset={4}>
          <Select.Viewport nonce={getNonce()}>
            {options.map(([key, words]) => (
              <Select.Item
                key={key}
                value={key}
                className="flex min-h-[30px] cursor-pointer items-center gap-2 rounded-sm px-2 text-[12.5px] outline-none data-[highlighted]:bg-faint"
              >
                <span className="w-3.5">
                  <Select.ItemIndicator>
                    <Check size={13} aria-hidden />
                  </Select.ItemIndicator>
                </span>
                <Select.ItemText>{words}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
