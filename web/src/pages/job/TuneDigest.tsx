/** Takes the digest of a tune file in the browser: the file itself stays where it is. Not there without a secure context. */
export function TuneDigest({ label, onDigest }: { label: string; onDigest: (digest: string) => void }) {
  if (!globalThis.crypto?.subtle) return null;
  return (
    <label className="btn sm mt-1 cursor-pointer">
      From a file
      <input
        type="file"
        className="sr-only"
        aria-label={label}
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void file.arrayBuffer().then(digestOf).then(onDigest);
        }}
      />
    </label>
  );
}

/** First twelve hexadecimal digits of the SHA-256: two files that share them by chance are not to be met in a shop. */
export async function digestOf(bytes: ArrayBuffer): Promise<string> {
  const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));
  return Array.from(digest.slice(0, 6), (b) => b.toString(16).padStart(2, '0')).join('');
}
