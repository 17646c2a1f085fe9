import { expect, test } from '@jest/globals';
import { orderOf } from './jobSearch.ts';

test('an address that names a column orders by it, in its usual direction unless it names one', () => {
  expect(orderOf('verdict', null)).toEqual({ sort: 'verdict', direction: 'rising' });
  expect(orderOf('verdict', 'falling')).toEqual({ sort: 'verdict', direction: 'falling' });
  expect(orderOf('opened', null)).toEqual({ sort: 'opened', direction: 'falling' });
  expect(orderOf('opened', 'sideways')).toEqual({ sort: 'opened', direction: 'falling' });
  expect(orderOf('price', 'rising')).toEqual({ sort: 'updated', direction: 'falling' });
});
