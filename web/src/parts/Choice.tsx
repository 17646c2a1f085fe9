import { Check, ChevronDown } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';

/** The keys begin at what is chosen, once the list has taken the focus. */
const begin = (chosen: HTMLElement | null) => void (chosen && requestAnimationFrame(() => chosen.focus()));

/**
 * A drop-down of a few choices; keyboard as the platform expects. It leaves the page below as it is: to lock a page and let it go
 * again styles everything on it twice.
 */
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
  const chosen = options.find(([key]) => key === value)?.[1] ?? '';
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger className="btn sm" aria-label={`${label}: ${chosen}`}>
        <span>{chosen}</span>
        <ChevronDown size={13} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          className="pop !p-1 max-h-(--radix-dropdown-menu-content-available-height) overflow-auto"
          align="start"
          sideOffset={4}
        >
          <DropdownMenu.RadioGroup value={value} onValueChange={(v) => onChange(v as T)}>
            {options.map(([key, words]) => (
              <DropdownMenu.RadioItem
                key={key}
                value={key}
                ref={key === value ? begin : undefined}
                className="flex min-h-[30px] cursor-pointer items-center gap-2 rounded-sm px-2 text-[12.5px] outline-none data-[highlighted]:bg-faint"
              >
                <span className="w-3.5">
                  <DropdownMenu.ItemIndicator>
                    <Check size={13} aria-hidden />
                  </DropdownMenu.ItemIndicator>
                </span>
                {words}
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
