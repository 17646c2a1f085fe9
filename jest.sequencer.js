import { createRequire } from 'node:module';

const { default: Sequencer } = createRequire(import.meta.url)('@jest/test-sequencer');

/** Files that take longest by far; started first, so that no worker ends with one of them alone. */
const LONGEST = [
  'e2e/faults',
  'e2e/bayDay',
  'e2e/journey',
  'e2e/shootout',
  'e2e/operations',
  'e2e/watch',
  'e2e/proof',
  'server/src/fuzz',
  'e2e/beside',
  'cli/src/cli',
  'e2e/fourBays',
  'simulator/src/live',
  'core/src/verdict/judge',
];

export default class LongestFirst extends Sequencer {
  sort(tests) {
    const place = ({ path }) => {
      const at = LONGEST.findIndex((name) => path.includes(name));
      return at < 0 ? LONGEST.length : at;
    };
    return [...super.sort(tests)].sort((a, b) => place(a) - place(b));
  }
}
