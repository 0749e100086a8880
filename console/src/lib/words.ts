/** The words of Yugum, one meaning each; the same table the glossary shows. */

import type { Schemas } from './api';

export const ACTIONS: Record<Schemas['Action'], string> = {
  create: 'account created',
  cut_off: 'cut off',
  end_devices: 'trusted devices ended',
  lock: 'locked, takes mail',
  resume: 'resumed',
  grant: 'granted',
  revoke: 'removed',
  take_seat: 'seat taken',
  free_seat: 'seat freed',
  transfer: 'handed over',
  copy: 'copied',
  call_off: 'called off',
  redirect: 'redirected',
  replace_key: 'key replaced',
  set: 'set',
  update: 'updated',
  try_sign_in: 'sign-in tried',
  set_credential: 'credential set',
  delete: 'deleted',
  park: 'parked',
  restore: 'restored',
  purge: 'purged',
  archive: 'archived',
  reopen: 'reopened',
  rename: 'renamed',
  run: 'own step run',
  invite: 'invited again',
  require: 'asked for'
};

export const PLANNED: Record<Schemas['Action'], string> = {
  create: 'create account',
  cut_off: 'cut off',
  end_devices: 'end trusted devices',
  lock: 'lock',
  resume: 'resume',
  grant: 'grant',
  revoke: 'remove',
  take_seat: 'take seat',
  free_seat: 'free seat',
  transfer: 'hand over',
  copy: 'copy',
  call_off: 'call off',
  redirect: 'redirect',
  replace_key: 'replace key',
  set: 'set',
  update: 'update',
  try_sign_in: 'try to sign in',
  set_credential: 'set credential',
  archive: 'archive',
  reopen: 'reopen',
  rename: 'rename',
  run: 'own step',
  delete: 'delete',
  park: 'park',
  restore: 'restore',
  purge: 'purge',
  invite: 'invite again',
  require: 'ask for'
};

/** What somebody has to do at the first sign-in. */
const DUTIES: Record<string, string> = {
  password: 'set a new password',
  mail: 'confirm the mail address',
  second_factor: 'enrol a second factor',
  profile: 'complete the profile',
  terms: 'accept the terms'
};

export const duty = (name: string) => DUTIES[name] ?? name;

export const KINDS: Record<string, string> = {
  scim: 'SCIM',
  ldap: 'LDAP',
  postgres: 'PostgreSQL',
  dovecot: 'Dovecot'
};

/** What a precaution has done to somebody. */
export const MEASURES: Record<string, string> = {
  suspend: 'suspended',
  secure: 'secured anew'
};

export const VERBS: Record<Schemas['Verb'], string> = {
  joiner: 'Joiner',
  mover: 'Mover',
  leaver: 'Leaver',
  returner: 'Returner',
  absence: 'Absence',
  rename: 'Rename',
  extension: 'Extension',
  credential: 'Credential',
  keys: 'Keys',
  undo: 'Undo',
  account: 'Account',
  close: 'Close',
  purge: 'Purge',
  recheck: 'Recheck',
  revert: 'Put back',
  update: 'Attributes',
  group: 'Group'
};

export const FINDINGS: Record<Schemas['FindingKind'], string> = {
  'leaver-open': 'leaver’s open account',
  'leaver-seat': 'leaver’s seat',
  'nobody-behind': 'nobody behind it',
  'without-owner': 'without an owner',
  'owner-left': 'owner has left',
  'owned-still': 'owns things still',
  sleeper: 'sleeper',
  'person-twice': 'person twice',
  outside: 'changed outside',
  'credential-ends': 'credential runs out',
  uncovered: 'sign-on not covered',
  'delivered-name': 'name it was delivered with',
  'seats-over': 'more than were bought',
  'seats-differ': 'another number of seats',
  'seat-alone': 'seat without its group',
  'group-alone': 'group without its seat',
  'still-named': 'leaver still named',
  missing: 'missing',
  too_much: 'too much',
  differs: 'differs',
  both: 'both of a pair',
  asked: 'asked, not done'
};

export const SIDES: Record<Schemas['Side'], string> = {
  missing: 'missing',
  too_much: 'too much',
  differs: 'differs',
  both: 'beside what excludes it',
  asked: 'asked for'
};

export const STANDINGS: Record<Schemas['LineStatus'], string> = {
  running: 'being done',
  waiting: 'waits',
  accepted: 'accepted',
  finding: 'nobody is at it'
};

export const STEP_STATES: Record<Schemas['StepState'], string> = {
  due: 'due',
  intent: 'running',
  settling: 'settling',
  waiting: 'waiting',
  attention: 'needs attention',
  done: 'done',
  left_out: 'left out'
};

export const GLOSSARY: [string, string][] = [
  ['person', 'A human of the organisation: expected, active, absent or left.'],
  ['application', 'A system where people hold accounts.'],
  [
    'account',
    'One login in one application: active, suspended, archived, deleted (until a moment it can come back) or purged.'
  ],
  [
    'invited, not accepted',
    'An account of an application that invites: it has its seat, and nobody has got in by it yet. Reminded of and withdrawn as the application’s profile says.'
  ],
  [
    'duty',
    'What somebody has to do at the first sign-in: a new password, confirming the address, a second factor, the profile, the terms.'
  ],
  [
    'parked',
    'An account of an application that cannot delete recoverably: suspended and marked until its window ends.'
  ],
  ['entitlement', 'A group, permission or role inside an application.'],
  [
    'group, retired',
    'A group itself has an owner; retired it gives nothing any more, and comes back within its window.'
  ],
  ['role', 'A rule of the organisation: a condition on people and what it gives.'],
  ['license, pool, seat', 'What is bought; how many; one of them, taken by one account.'],
  ['decision', 'Something an operator settled for one person: an exception, a successor, a hold.'],
  ['plan', 'The exact steps for one person now, each with its reason. Nothing has happened yet.'],
  ['docket', 'A plan being carried out: steps, attempts, receipts, a reference number.'],
  ['receipt', 'What a step found, did and saw afterwards.'],
  ['cut off', 'Suspended, and every way in ended: sessions, keys, the password.'],
  ['successor, handover', 'Who takes over; the record of every item’s new home.'],
  ['retention window', 'How long something deleted can come back; here: “back until …”.'],
  ['hold', 'An order that nothing of a person is deleted or purged.'],
  ['finding', 'Something the readings show that should not be.'],
  ['settling', 'Accepted by the application, not yet seen to have arrived.'],
  [
    'resume, restore, undo',
    'A suspended account is resumed; a deleted one is restored; what a docket did is undone.'
  ],
  ['returner', 'A person back from absence, or hired again.'],
  ['watch, add, full', 'What Yugum may do in an application: nothing, create and grant, all.'],
  ['task', 'What the owner of an application without an interface is asked to do.'],
  ['sleeper', 'An account nobody has used for 90 days.'],
  ['operator', 'Someone who works with Yugum.']
];

/** Fields of a person, as they are shown and asked for. */
export const FIELDS: Record<string, string> = {
  user_name: 'Login',
  given_name: 'Given name',
  family_name: 'Family name',
  middle_name: 'Middle name',
  honorific_prefix: 'Form of address',
  honorific_suffix: 'After the name',
  nick_name: 'Called',
  display_name: 'Name shown',
  employee_number: 'Number',
  user_type: 'Employed as',
  department: 'Department',
  division: 'Division',
  organization: 'Organisation',
  cost_center: 'Cost centre',
  title: 'Title',
  site: 'Site',
  manager_id: 'Manager',
  manager: 'Manager',
  time_zone: 'Time zone',
  preferred_language: 'Language',
  locale: 'Locale',
  mail: 'Mail address',
  outside_mail: 'Outside mail address',
  phone: 'Phone',
  mobile: 'Mobile phone',
  groups: 'Groups of the source',
  starts: 'First day',
  last_working_day: 'Last working day',
  access_ends: 'Access ends',
  contract_ends: 'Contract ends'
};

export const fieldName = (name: string): string =>
  FIELDS[name] ?? name.replace(/^own\./, '').replaceAll('_', ' ');

/** What somebody decides about a person. */
export const DECISIONS: Record<Schemas['DecisionKind'], string> = {
  grant: 'is given',
  deny: 'is not given',
  successor: 'takes over',
  hold: 'is kept from deletion',
  role: 'has a role',
  suspend: 'is suspended',
  veil: 'is prepared in confidence'
};

/** How long a cut-off took; in the order in which they are told. */
export const LATENESS: Record<Schemas['Lateness'], string> = {
  'within-a-minute': 'within a minute',
  'within-five-minutes': 'within 5 minutes',
  'within-a-quarter': 'within 15 minutes',
  'within-an-hour': 'within an hour',
  'within-a-day': 'within a day',
  later: 'later',
  'left-out': 'left out',
  open: 'open still'
};
