import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

let rules: string | null = null;

/** Font faces with their files inside, so that a report opens anywhere without a network. */
export function fontRules(): string {
  rules ??= ['latin-ext', 'latin']
    .map((part) => {
      const path = fileURLToPath(
        import.meta.resolve(`@fontsource-variable/archivo/files/archivo-${part}-standard-normal.woff2`),
      );
      const range =
        part === 'latin'
          ? 'U+0000-00FF,U+0131,U+0152-0153,U+02BB-02BC,U+02C6,U+02DA,U+02DC,U+2000-206F,U+20AC,U+2122,U+2191,U+2193,U+2212,U+2215'
          : 'U+0100-02BA,U+1E00-1E9F,U+20A0-20AB';
      return `@font-face{font-family:"Archivo Variable";src:url(data:font/woff2;base64,${readFileSync(path).toString('base64')}) format("woff2");font-weight:100 900;font-stretch:62% 125%;unicode-range:${range}}`;
    })
    .join('');
  return rules;
}
