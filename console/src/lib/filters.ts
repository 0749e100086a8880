/** What a list can be filtered by, and what it is filtered by now. */
import { dateOf } from './format';
import type { Query } from './router.svelte';
import { session } from './session.svelte';

export interface Field {
  /** As the service calls it. */
  name: string;
  label: string;
  /** The values there are; without them one is typed. */
  options?: readonly string[];
  /** What these are called, where not by themselves. */
  words?: Readonly<Record<string, string>>;
  /** Picked from people or applications, or from what people have in this field. */
  pick?: 'person' | 'application' | 'department' | 'site' | 'user_type';
  hint?: string;
  /** A day: its beginning where one is, as a moment. */
  day?: true;
}

export interface Chip {
  name: string;
  label: string;
  value: string;
}

/** The filters of a list in the order of its fields. */
export function chips(fields: Field[], query: Query): Chip[] {
  return fields.flatMap(({ name, label, words, day }) => {
    const value = query[name];
    if (!value) return [];
    const said = day ? dateOf(value, session.zone) : (words?.[value] ?? value);
    return [{ name, label, value: said }];
  });
}

export const PEOPLE: Field[] = [
  { name: 'state', label: 'State', options: ['active', 'absent', 'expected', 'left'] },
  { name: 'department', label: 'Department', pick: 'department' },
  { name: 'site', label: 'Site', pick: 'site' },
  { name: 'user_type', label: 'Kind', pick: 'user_type' },
  { name: 'manager', label: 'Manager', pick: 'person' },
  { name: 'filter', label: 'Any filter (RFC 7644)', hint: 'title co "deck" and site eq "Oxhaven"' }
];

export const AUDIT: Field[] = [
  { name: 'who', label: 'About whom', pick: 'person' },
  { name: 'docket', label: 'Docket', hint: 'MS-0321' },
  { name: 'action', label: 'What was done', hint: 'person.changed' }
];

export const DOCKETS: Field[] = [
  {
    name: 'state',
    label: 'State',
    options: ['awaiting', 'scheduled', 'running', 'done', 'cancelled', 'superseded']
  },
  {
    name: 'verb',
    label: 'What',
    options: [
      'joiner',
      'mover',
      'leaver',
      'returner',
      'absence',
      'rename',
      'extension',
      'account',
      'recheck',
      'update',
      'credential',
      'keys',
      'group',
      'revert',
      'close',
      'purge',
      'undo'
    ]
  },
  { name: 'who', label: 'Who', pick: 'person' },
  { name: 'author', label: 'By', hint: 'The operator’s login' },
  { name: 'reference', label: 'Reference', hint: 'The whole reference' },
  { name: 'since', label: 'Due from', day: true },
  { name: 'before', label: 'Due before', day: true },
  { name: 'batch', label: 'Confirmed together', hint: 'Its id' },
  { name: 'stuck', label: 'Stuck', options: ['true'], words: { true: 'waits for somebody' } }
];

export const ACCOUNTS: Field[] = [
  { name: 'application', label: 'Application', pick: 'application' },
  { name: 'state', label: 'State', options: ['active', 'suspended', 'archived', 'deleted'] },
  { name: 'to_do', label: 'To do', options: ['invitation', 'duties'] },
  { name: 'kind', label: 'Kind', options: ['person', 'service', 'shared'] },
  { name: 'who', label: 'Whose', pick: 'person' },
  { name: 'q', label: 'Login', hint: 'What it begins with' }
];

export const WINDOWS: Field[] = [
  { name: 'application', label: 'Application', pick: 'application' },
  { name: 'days', label: 'Lost within days', options: ['1', '7', '30', '90'] }
];

export const HANDOVERS: Field[] = [
  {
    name: 'settled',
    label: 'Its new home',
    options: ['open', 'to', 'goes', 'copied', 'kept'],
    words: {
      open: 'open',
      to: 'goes to somebody',
      goes: 'goes with the account',
      copied: 'copied for somebody',
      kept: 'keeps the account'
    }
  },
  { name: 'application', label: 'Application', pick: 'application' }
];

export const MAILS: Field[] = [
  { name: 'who', label: 'About', pick: 'person' },
  { name: 'kind', label: 'Kind', options: ['credential', 'approval', 'reminder', 'notice'] },
  { name: 'unsent', label: 'Not sent yet', options: ['true'] }
];

/** Beside their kind. */
export const FINDINGS: Field[] = [
  { name: 'application', label: 'Application', pick: 'application' },
  { name: 'who', label: 'Whose', pick: 'person' }
];

export const JOINERS: Field[] = [
  {
    name: 'ready',
    label: 'State',
    options: ['true', 'false'],
    words: { true: 'ready', false: 'not ready' }
  },
  { name: 'before', label: 'Began within days', options: ['0', '7', '30', '90'] },
  { name: 'ahead', label: 'Begins within days', options: ['7', '14', '30', '90'] }
];

export const GROUPS: Field[] = [
  { name: 'application', label: 'Application', pick: 'application' },
  { name: 'owner', label: 'Owner', pick: 'person' },
  { name: 'q', label: 'Name', hint: 'A part of it' },
  { name: 'retired', label: 'Retired', options: ['true'] }
];

const ROLE: Field = {
  name: 'role',
  label: 'Role',
  options: ['viewer', 'operator', 'administrator']
};
const WORKING: Field = {
  name: 'active',
  label: 'State',
  options: ['true', 'false'],
  words: { true: 'active', false: 'disabled' }
};
const PART: Field = { name: 'q', label: 'Login or name', hint: 'A part of it' };

export const OPERATORS: Field[] = [ROLE, WORKING, PART];

export const INTEGRATIONS: Field[] = [
  { name: 'owner', label: 'Who answers for it', hint: 'The operator’s login' },
  ROLE,
  WORKING,
  PART
];

export const TOKENS: Field[] = [
  { name: 'of', label: 'Of', hint: 'Your login, or an integration’s' }
];

export const SHARED: Field[] = [
  {
    name: 'due',
    label: 'To be changed',
    options: ['true'],
    words: { true: 'somebody who knew it left' }
  },
  { name: 'q', label: 'Name or place', hint: 'A part of it' }
];
