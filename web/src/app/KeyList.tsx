import { Dialog } from 'radix-ui';

const KEYS = [
  ['B', 'Run sheet of the bay; there again: back to the desk'],
  ['/', 'Find anything: jobs, numbers, cars, customers, parts, models'],
  ['1–7', 'Show or hide a setup (on Compare)'],
  ['P', 'Single pulls (on Compare)'],
  ['X', 'Next comparison (on Compare)'],
  ['M', 'Next measure (on Compare)'],
  ['Left, right', 'Cross-hair by 50 rpm, with Shift by 250 (on the chart)'],
  ['Space', 'Pull counts; STOP was looked at; start the round (in the bay)'],
  ['1–4', 'The buttons at the foot, from the left; held ones want Enter (in the bay)'],
  ['A', 'Set the last pull aside (in the bay)'],
  ['E', 'Extra settle pull (in the bay)'],
  ['N', 'Note (in the bay)'],
  ['?', 'This list'],
] as const;

/** Every key of the application and what it does. */
export function KeyList({ onClose }: { onClose: () => void }) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content className="pop fixed top-[12vh] left-1/2 z-50 w-[min(520px,92vw)] -translate-x-1/2">
          <Dialog.Title className="text-[15px] font-[650]">Keys</Dialog.Title>
          <Dialog.Description className="sr-only">What each key does, and where.</Dialog.Description>
          <dl className="mt-2 grid grid-cols-[110px_1fr] gap-y-1.5">
            {KEYS.map(([key, does]) => (
              <div key={key} className="contents">
                <dt className="font-[650]">{key}</dt>
                <dd className="text-ink-2">{does}</dd>
              </div>
            ))}
          </dl>
          <Dialog.Close className="btn sm mt-3">Close</Dialog.Close>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
