import { times } from './times.svelte';
import { describe, expect, it } from 'vitest';
import {
  clockOf,
  dateOf,
  dayOf,
  exactly,
  left,
  longDay,
  momentOf,
  money,
  plural,
  together,
  took,
  worded
} from './format';

const AT = '2031-03-03T08:40:05Z';

describe('times', () => {
  it('are the clock of the place that is asked for', () => {
    expect(clockOf(AT, 'UTC')).toBe('08:40');
    expect(clockOf(AT, 'Europe/Helsinki')).toBe('10:40');
    expect(clockOf('2031-03-03T00:00:00Z', 'UTC')).toBe('00:00');
  });

  it('fall on the day of that place', () => {
    const late = '2031-03-03T23:30:00Z';
    expect(dayOf(late, 'UTC')).toMatch(/^Mon,? 3 Mar$/);
    expect(dayOf(late, 'Europe/Helsinki')).toMatch(/^Tue,? 4 Mar$/);
    expect(dateOf(late, 'Pacific/Kiritimati')).toBe('4 Mar 2031');
    expect(longDay(late, 'UTC')).toMatch(/^Monday,? 3 March$/);
  });

  it('are no moments where only a day is said, which is the same everywhere', () => {
    for (const zone of ['America/Los_Angeles', 'UTC', 'Pacific/Kiritimati'])
      expect(dateOf('2031-03-03', zone)).toBe('3 Mar 2031');
  });

  it('keep to the clock over a change of summer time', () => {
    expect(momentOf('2031-03-29T12:00:00Z', 'Europe/Helsinki')).toMatch(/14:00$/);
    expect(momentOf('2031-03-30T12:00:00Z', 'Europe/Helsinki')).toMatch(/15:00$/);
  });

  it('says the year where it is another one, in the zone that is meant', () => {
    times.year = '2031';
    expect(momentOf('2031-03-30T12:00:00Z', 'UTC')).toBe('Sun 30 Mar 12:00');
    expect(momentOf('2032-03-02T08:40:00Z', 'UTC')).toBe('Tue 2 Mar 2032 08:40');
    expect(momentOf('2031-12-31T23:30:00Z', 'Europe/Helsinki')).toBe('Thu 1 Jan 2032 01:30');
    times.year = '';
  });

  it('name their zone and second when they are to be exact', () => {
    const text = exactly(AT, 'Europe/Helsinki');
    expect(text).toContain('2031');
    expect(text).toContain('10:40:05');
    expect(text).toMatch(/(GMT\+2|EET)$/);
  });
});

describe('values of a plan', () => {
  it('are moments in full, and days and words as they are', () => {
    expect(worded(AT, 'Europe/Helsinki')).toBe(exactly(AT, 'Europe/Helsinki'));
    for (const value of ['2031-03-07', 'Deck', '', 'T2031-03-07T1']) {
      expect(worded(value, 'Europe/Helsinki')).toBe(value);
    }
  });
});

describe('what is left', () => {
  it('is hours, and days from two on', () => {
    const now = Date.parse('2031-03-03T00:00:00Z');
    expect(left('2031-03-04T23:30:00Z', now)).toBe('47 hours');
    expect(left('2031-03-05T00:00:00Z', now)).toBe('2 days');
  });
});

describe('counts, amounts and spans', () => {
  it('speak of one and of many', () => {
    expect(plural(1, 'seat')).toBe('1 seat');
    expect(plural(0, 'seat')).toBe('0 seats');
    expect(plural(2, 'person', 'people')).toBe('2 people');
  });

  it('show whole money', () => {
    expect(money({ GBP: '4.50', EUR: '1234.00' })).toBe('€1,234.00 + £4.50');
    expect(money({ JPY: '900' })).toBe('JP¥900');
    expect(money(null)).toBe('');
    expect(together([{ EUR: '0.10' }, { EUR: '0.20', GBP: '1.00' }, null])).toEqual({
      EUR: '0.30',
      GBP: '1.00'
    });
  });

  it('are seconds, never nothing', () => {
    expect(took(0)).toBe('0.01 s');
    expect(took(160)).toBe('0.16 s');
    expect(took(12_340)).toBe('12.3 s');
  });
});
