import { expect, test } from 'vitest';
import type { Schemas } from '../../lib/api';
import { about, told } from './audit';

test('an event is told in a line', () => {
  expect(told({ from_login: 'a', steps: ['b', 'c'], why: null, of: { n: 1 } })).toBe(
    'from login: a; steps: b, c; why: –; of: n 1'
  );
  expect(told(null)).toBe('');
});

test('an event leads to the page of what it is about, where it has one', () => {
  const of = (action: string, docket_id: string | null = null, subject_name: string | null = 'X') =>
    about({ action, docket_id, subject: 'x', subject_name } as Schemas['AuditEvent'])?.at;
  expect(of('person.changed')).toBe('/people/x');
  expect(of('person.changed', null, null)).toBeUndefined();
  expect(of('person.declined')).toBeUndefined();
  expect(of('session.begun')).toBeUndefined();
  expect(of('application.read')).toBe('/applications/x');
  expect(of('step.done', 'MS-1')).toBe('/dockets/MS-1');
});
