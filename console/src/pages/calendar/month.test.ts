import { describe, expect, it } from 'vitest';
import { dayKey, monthDays, monthName, shifted } from './month';

describe('the days of a month', () => {
  it('are whole weeks from Monday to Sunday', () => {
    const days = monthDays('2031-03'); // begins on a Saturday
    expect(days[0]).toBe('2031-02-24');
    expect(days.at(-1)).toBe('2031-04-06');
    expect(days.length % 7).toBe(0);
  });

  it('are four weeks when they fit exactly', () => {
    const days = monthDays('2027-02'); // Monday the 1st to Sunday the 28th
    expect([days[0], days.at(-1), days.length]).toEqual(['2027-02-01', '2027-02-28', 28]);
  });

  it('have a 29 February in leap years only', () => {
    expect(monthDays('2032-02')).toContain('2032-02-29');
    expect(shifted('2032-02-28', 1)).toBe('2032-02-29');
    expect(shifted('2031-02-28', 1)).toBe('2031-03-01');
    expect(shifted('2031-01-01', -1)).toBe('2030-12-31');
  });

  it('lose and double none when clocks change', () => {
    const days = monthDays('2031-03');
    expect(new Set(days).size).toBe(days.length);
  });

  it('are those of the place', () => {
    expect(dayKey('2031-03-03T23:30:00Z', 'UTC')).toBe('2031-03-03');
    expect(dayKey('2031-03-03T23:30:00Z', 'Europe/Helsinki')).toBe('2031-03-04');
    expect(dayKey('2031-03-03T09:30:00Z', 'Pacific/Midway')).toBe('2031-03-02');
  });

  it('have a name', () => {
    expect(monthName('2031-03')).toBe('March 2031');
  });
});
