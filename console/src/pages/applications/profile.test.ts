import { describe, expect, it } from 'vitest';
import { changes, CHOICES, NUMBERS, shown } from './profile';

const PROFILE = {
  window_days: 30,
  close_after_days: 7,
  prepare_days: 3,
  ceiling_per_hour: 0,
  fall_percent: 2,
  fall_least: 10,
  calls_per_second: 0,
  read_every_hours: 24,
  deletion: 'recoverable',
  seat_at_suspension: 'kept',
  seat_at_deletion: 'freed',
  seat_at_restore: 'assign',
  credential_on_resume: 'new',
  never_returns: ['sessions']
};

describe('a profile in the form', () => {
  it('shows its fields and nothing else', () => {
    const fields = shown(PROFILE);
    expect(Object.keys(fields)).toHaveLength(NUMBERS.length + CHOICES.length);
    expect(fields.window_days).toBe(30);
    expect(fields).not.toHaveProperty('never_returns');
  });

  it('sends only what was changed', () => {
    const before = shown(PROFILE);
    expect(changes(before, { ...before })).toEqual({});
    expect(changes(before, { ...before, window_days: 14, deletion: 'park' })).toEqual({
      window_days: 14,
      deletion: 'park'
    });
  });

  it('offers each field’s present value', () => {
    for (const choice of CHOICES) {
      const value = PROFILE[choice.name as keyof typeof PROFILE] as string;
      expect(choice.words.map(([word]) => word)).toContain(value);
    }
  });
});
