/** The fields of a profile that are set in the console, and how they are called there. */
import type { Schemas } from '../../lib/api';

interface Numbered {
  name: string;
  label: string;
  step?: string;
}
interface Chosen {
  name: string;
  label: string;
  words: [string, string][];
}

export const NUMBERS: Numbered[] = [
  { name: 'window_days', label: 'A deleted account can come back for, days' },
  { name: 'close_after_days', label: 'A suspended leaver is closed after, days' },
  { name: 'invitation_days', label: 'An invitation is withdrawn after, days (0: never)' },
  { name: 'prepare_days', label: 'A joiner is prepared before, days' },
  { name: 'ceiling_per_hour', label: 'Things taken away an hour at most (0: no limit)' },
  { name: 'fall_percent', label: 'A reading is asked about if it misses, %', step: 'any' },
  { name: 'fall_least', label: 'and at least so many accounts' },
  { name: 'calls_per_second', label: 'Calls a second at most (0: no limit)', step: 'any' },
  { name: 'read_every_hours', label: 'Read every so many hours (0: on request)', step: 'any' }
];

const KEPT: [string, string][] = [
  ['kept', 'kept'],
  ['freed', 'freed']
];

export const CHOICES: Chosen[] = [
  {
    name: 'deletion',
    label: 'An account is deleted',
    words: [
      ['recoverable', 'recoverably, by the application'],
      ['park', 'by parking it until the window ends'],
      ['final', 'at once for good']
    ]
  },
  { name: 'seat_at_suspension', label: 'Seat of a suspended account', words: KEPT },
  { name: 'seat_at_deletion', label: 'Seat of a deleted account', words: KEPT },
  {
    name: 'seat_at_restore',
    label: 'Seat of a restored account',
    words: [
      ['returned', 'comes back by itself'],
      ['assign', 'is assigned again']
    ]
  },
  {
    name: 'credential_on_resume',
    label: 'A resumed account signs in with',
    words: [
      ['new', 'a new credential'],
      ['kept', 'its former one']
    ]
  }
];

export type Fields = Record<string, string | number>;

/** What stands in the form at first. */
export function shown(profile: Record<string, unknown>): Fields {
  return Object.fromEntries(
    [...NUMBERS, ...CHOICES].map(({ name }) => [name, profile[name] as string | number])
  );
}

/** Only what was changed: the rest may have been changed by somebody else meanwhile. */
export function changes(before: Fields, now: Fields): Schemas['ProfileDocument'] {
  const changed = Object.entries(now).filter(([name, value]) => before[name] !== value);
  return Object.fromEntries(changed);
}
