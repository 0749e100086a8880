import { expect, test } from 'vitest';
import { course, points, said, untilNow } from './course';

const day = (n: number, sleepers: number, over = false) => ({
  day: `2031-03-0${n}`,
  found: sleepers + 1,
  counts: [
    { kind: 'sleeper' as const, count: sleepers },
    { kind: 'outside' as const, count: 1 }
  ],
  over: over ? ['sleeper' as const] : []
});

test('a day that nobody counted is a gap, not a day without findings', () => {
  const drawn = course(points([day(1, 3), day(2, 5), day(5, 1)], ''));
  expect(drawn.line.match(/M/g)).toHaveLength(2);
  expect(drawn.gaps.match(/M/g)).toHaveLength(1);
  expect(drawn.line.endsWith(`H${drawn.width}`)).toBe(true);
});

test('one kind is drawn by itself, and what is over is said to be', () => {
  const found = points([day(1, 3), day(2, 9, true), day(3, 2)], 'sleeper');
  expect(found.map((p) => p.count)).toEqual([3, 9, 2]);
  expect(said(found, (d) => d.slice(-1))).toBe('3 on 1, at most over 9 on 2, 2 on 3.');
  expect(points([day(1, 3)], 'missing')[0]?.count).toBe(0);
});

test('the steps stay within the drawing', () => {
  const drawn = course(points([day(1, 999), day(2, 0)], ''));
  const heights = [...drawn.line.matchAll(/(?:V|M[\d.]+ )([\d.]+)/g)].map((m) => Number(m[1]));
  expect(Math.min(...heights)).toBeGreaterThan(0);
  expect(Math.max(...heights)).toBeLessThanOrEqual(drawn.floor);
});

test('the last day is as it is now, counted today or not', () => {
  const now = [{ kind: 'sleeper' as const, count: 7, cost: {}, over: true }];
  const found = points(untilNow([day(1, 3), day(2, 5)], '2031-03-02', now), '');
  expect(found.map((p) => [p.day.slice(-1), p.count, p.over])).toEqual([
    ['1', 4, false],
    ['2', 7, true]
  ]);
  expect(untilNow([day(1, 3)], '2031-03-09', now)).toHaveLength(2);
});
