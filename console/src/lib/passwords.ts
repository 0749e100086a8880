/** What a password must be like, checked while it is typed; the service looks again. */
import type { Schemas } from './api';

const CLASSES: Record<string, [RegExp, string]> = {
  upper: [/[A-Z]/, 'a capital letter'],
  lower: [/[a-z]/, 'a small letter'],
  digit: [/[0-9]/, 'a digit'],
  sign: [/[!#%+,\-./:=?@_~]/, 'a sign']
};

export interface Check {
  text: string;
  good: boolean;
}

export function checks(rules: Schemas['CredentialRules'], password: string): Check[] {
  return [
    { text: `${rules.length} characters or more`, good: password.length >= rules.length },
    ...rules.needs.map((n) => ({ text: CLASSES[n]![1], good: CLASSES[n]![0].test(password) })),
    {
      text: 'nothing of the login in it',
      good: password !== '' && !password.toLowerCase().includes(rules.login.toLowerCase())
    }
  ];
}
