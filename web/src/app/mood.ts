/**
 * Which mood this device is for: a tablet in a bay comes back to its run sheet after a restart, a desk to Today. Kept on the device,
 * not with the person, who uses both.
 */
const KEY = 'prandel.mood';

/** Address of the run sheet this device belongs to; null at a desk, or where a browser keeps nothing. */
export function bayOfDevice(): string | null {
  try {
    const kept = localStorage.getItem(KEY);
    return kept && /^\/bays\/[0-9a-f-]{36}$/.test(kept) ? kept : null;
  } catch {
    return null;
  }
}

/** Makes this device one of a bay, or with null one of the desk. */
export function setBayOfDevice(bayId: string | null): void {
  try {
    if (bayId) localStorage.setItem(KEY, `/bays/${bayId}`);
    else localStorage.removeItem(KEY);
  } catch {
    // A browser that keeps nothing asks for the run sheet again; nothing else is lost.
  }
}
