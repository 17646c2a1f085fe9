import { useHotkeys } from 'react-hotkeys-hook';

/** What wants its keys for itself: an open list, a box with choices. Fields are left alone by the package. */
const WANTS_KEYS = '[role=listbox],[role=combobox],[role=menu]';

/**
 * Does something at a key, as the keyboard's layout produces it; not while somebody writes, and not with Ctrl, Alt or the system's key.
 * @param keys keys in small letters, "*" for any
 */
export function useKeys(keys: readonly string[], does: (key: string, event: KeyboardEvent) => void): void {
  useHotkeys([...keys], (event) => does(event.key.toLowerCase(), event), {
    useKey: true,
    // A layout may need Shift for a key such as "?"; the others are looked at below.
    ignoreModifiers: true,
    ignoreEventWhen: (e) =>
      e.ctrlKey || e.metaKey || e.altKey || (e.target instanceof Element && e.target.closest(WANTS_KEYS) !== null),
  });
}
