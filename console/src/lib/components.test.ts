/** What a component may be: short enough to be read at once, its logic in a class beside it. */
import { expect, test } from 'vitest';

const sources = import.meta.glob<string>('../**/*.svelte', {
  query: '?raw',
  import: 'default',
  eager: true
});

test('no component has more than 80 lines', () => {
  const long = Object.entries(sources)
    .map(([name, text]) => [name, text.split('\n').length - 1] as const)
    .filter(([, lines]) => lines > 80);
  expect(Object.keys(sources).length).toBeGreaterThan(100);
  expect(long).toEqual([]);
});
