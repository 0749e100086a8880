import { expect, test } from 'vitest';
import { ofPerson, told } from './audit';

test('an event is told in a line', () => {
  expect(told({ from_login: 'a', steps: ['b', 'c'], why: null, of: { n: 1 } })).toBe(
    'from login: a; steps: b, c; why: –; of: n 1'
  );
  expect(told(null)).toBe('');
});

test('who was declined has no page', () => {
  expect(['person.changed', 'person.declined', 'session.begun'].map(ofPerson)).toEqual([
    true,
    false,
    false
  ]);
});
