import { expect, test } from 'vitest';
import { stepsOf } from './steps';

test('the next step is the first that is not done, and a link alone is no way in again', () => {
  const nothing = stepsOf({ people: 0, applications: [], version: 0 }, 'admin', false);
  expect(nothing.map((s) => s.done)).toEqual([false, false, false, false, false]);
  const reports = { name: 'Reports', trust: 'watch' as const };
  const watched = stepsOf({ people: 30, applications: [reports], version: 0 }, 'admin', true);
  expect(watched.map((s) => s.done)).toEqual([true, true, true, false, false]);
  expect(watched[1]?.is).toBe('30 people');
  const acting = { ...reports, trust: 'full' as const };
  const all = stepsOf({ people: 1, applications: [reports, acting], version: 2 }, 'admin', true);
  expect(all.every((s) => s.done)).toBe(true);
  expect(all[4]?.is).toBe('Yugum acts in 1 application');
});
