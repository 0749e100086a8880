/** The columns lists can show, each by the field of its rows; the first is the name, the last the state. */
import type { Schemas } from './api';
import { capital, dateOf, momentOf, money } from './format';
import { because, kindOf, newHome, things } from './handover';
import type { Column } from './listing.svelte';
import { session } from './session.svelte';
import { duty, FINDINGS } from './words';

const day = (at: string | null | undefined): string => (at ? dateOf(at, 'UTC') : '–');
const moment = (at: string | null | undefined): string => (at ? momentOf(at, session.zone) : '–');

export const PEOPLE_COLUMNS: Column<Schemas['PersonRow']>[] = [
  { name: 'display_name', label: 'Name', text: (r) => r.display_name, sort: 'name', width: 14 },
  { name: 'user_name', label: 'Login', text: (r) => r.user_name, sort: 'login', look: 'mono' },
  {
    name: 'employee_number',
    label: 'Number',
    text: (r) => r.employee_number,
    sort: 'number',
    look: 'mono',
    width: 6
  },
  { name: 'department', label: 'Department', text: (r) => r.department, sort: 'department' },
  { name: 'title', label: 'Title', text: (r) => r.title },
  { name: 'site', label: 'Site', text: (r) => r.site, sort: 'site', look: 'soft' },
  { name: 'manager_name', label: 'Manager', text: (r) => r.manager_name ?? '–', more: true },
  { name: 'user_type', label: 'Kind', text: (r) => r.user_type, more: true },
  {
    name: 'starts',
    label: 'Begins',
    text: (r) => day(r.starts),
    sort: 'begins',
    look: 'soft',
    width: 8
  },
  {
    name: 'access_ends',
    label: 'Access ends',
    text: (r) => moment(r.access_ends),
    at: (r) => r.access_ends,
    sort: 'leaves',
    look: 'soft',
    more: true
  },
  { name: 'contract_ends', label: 'Contract ends', text: (r) => day(r.contract_ends), more: true },
  {
    name: 'open_accounts',
    label: 'Open accounts',
    text: (r) => String(r.open_accounts),
    look: 'num mono',
    width: 7
  },
  { name: 'state', label: 'State', text: (r) => r.state, width: 7 }
];

export const ACCOUNT_COLUMNS: Column<Schemas['AccountRow']>[] = [
  { name: 'login', label: 'Login', text: (r) => r.login, look: 'mono', width: 14 },
  {
    name: 'application_name',
    label: 'Application',
    text: (r) => r.application_name,
    sort: 'application'
  },
  { name: 'person_name', label: 'Whose', text: (r) => r.person_name ?? 'nobody’s' },
  { name: 'kind', label: 'Kind', text: (r) => r.kind, look: 'soft', width: 7 },
  {
    name: 'last_used',
    label: 'Last used',
    text: (r) => moment(r.last_used),
    at: (r) => r.last_used,
    sort: 'used',
    look: 'soft'
  },
  {
    name: 'recoverable_until',
    label: 'Can come back until',
    text: (r) => moment(r.recoverable_until),
    at: (r) => r.recoverable_until,
    more: true
  },
  {
    name: 'duties',
    label: 'To do at the first sign-in',
    text: (r) => r.duties.map(duty).join(', '),
    more: true
  },
  {
    name: 'state',
    label: 'State',
    text: (r) => (r.invited_at ? 'invited, not accepted' : r.state),
    width: 8
  }
];

export const DOCKET_COLUMNS: Column<Schemas['DocketRow']>[] = [
  {
    name: 'number',
    label: 'Number',
    text: (r) => r.number,
    sort: 'number',
    latest: true,
    look: 'mono',
    width: 7
  },
  { name: 'title', label: 'What', text: (r) => capital(r.title) },
  { name: 'subject_name', label: 'Who', text: (r) => r.subject_name },
  {
    name: 'due_at',
    label: 'Due',
    text: (r) => moment(r.due_at),
    at: (r) => r.due_at,
    sort: 'due',
    latest: true
  },
  { name: 'author', label: 'By', text: (r) => r.author, look: 'soft' },
  { name: 'reference', label: 'Reference', text: (r) => r.reference, look: 'mono' },
  { name: 'reason', label: 'Why', text: (r) => r.reason, more: true },
  { name: 'outcome', label: 'State', text: (r) => r.outcome }
];

export type Found = Schemas['Finding'] & { id: string };
export const FINDING_COLUMNS: Column<Found>[] = [
  {
    name: 'display_name',
    label: 'Who',
    text: (r) => r.display_name || r.login || 'nobody',
    called: (r) => `${r.display_name || r.login || 'nobody'}, ${r.application_name}: ${r.text}`
  },
  { name: 'login', label: 'Login', text: (r) => r.login, look: 'mono', width: 10 },
  { name: 'application_name', label: 'Application', text: (r) => r.application_name },
  { name: 'text', label: 'What', text: (r) => r.text, width: 18 },
  {
    name: 'since',
    label: 'Since',
    text: (r) => (r.since ? dateOf(r.since, session.zone) : ''),
    at: (r) => r.since,
    look: 'soft',
    width: 8
  },
  {
    name: 'cost',
    label: 'A month',
    text: (r) => money(r.cost),
    look: 'num mono',
    width: 6
  },
  { name: 'kind', label: 'Kind', text: (r) => FINDINGS[r.kind] ?? r.kind }
];

/** Of findings that somebody has accepted. */
export const ACCEPTED_COLUMNS: Column<Found>[] = [
  {
    name: 'accepted_until',
    label: 'Until',
    text: (r) => moment(r.accepted_until),
    at: (r) => r.accepted_until,
    look: 'soft'
  },
  { name: 'accepted_by', label: 'By', text: (r) => r.accepted_by },
  { name: 'accepted_why', label: 'Why', text: (r) => r.accepted_why, width: 14 }
];

export type Back = Schemas['LastCall'] & { id: string };
export const WINDOW_COLUMNS: Column<Back>[] = [
  { name: 'display_name', label: 'Who', text: (r) => r.display_name ?? r.login, width: 14 },
  { name: 'login', label: 'Login', text: (r) => r.login, look: 'mono' },
  { name: 'application_name', label: 'Application', text: (r) => r.application_name },
  {
    name: 'recoverable_until',
    label: 'Back until',
    text: (r) => moment(r.recoverable_until),
    at: (r) => r.recoverable_until
  },
  { name: 'held', label: 'Left', text: (r) => (r.held ? 'on hold' : '') }
];

export const MAIL_COLUMNS: Column<Schemas['MailRow']>[] = [
  { name: 'subject', label: 'Subject', text: (r) => r.subject, width: 24 },
  { name: 'address', label: 'To', text: (r) => r.address },
  { name: 'kind', label: 'Kind', text: (r) => r.kind, look: 'soft', width: 8 },
  {
    name: 'made_at',
    label: 'Made',
    text: (r) => moment(r.made_at),
    at: (r) => r.made_at,
    look: 'soft'
  },
  { name: 'tries', label: 'Tries', text: (r) => String(r.tries), look: 'num mono', more: true },
  { name: 'sent_at', label: 'Sent', text: (r) => moment(r.sent_at), at: (r) => r.sent_at }
];

export const HOLDER_COLUMNS: Column<Schemas['SeatHolder']>[] = [
  { name: 'person_name', label: 'Person', text: (r) => r.person_name ?? 'nobody' },
  { name: 'login', label: 'Login', text: (r) => r.login ?? '', look: 'mono' },
  {
    name: 'since_at',
    label: 'Since',
    text: (r) => dateOf(r.since_at, session.zone),
    at: (r) => r.since_at,
    look: 'soft'
  },
  { name: 'account_state', label: 'Account', text: (r) => r.account_state ?? '' },
  {
    name: 'state',
    label: 'Seat',
    text: (r) => (r.state === 'waiting' ? `waiting, number ${r.place} in line` : r.state)
  }
];

const BECAUSE: Record<Schemas['ReclaimReason'], string> = {
  left: 'has left',
  shared: 'no named person',
  'not-for-them': 'not for them',
  twice: 'another seat does as well',
  cheaper: 'a cheaper license does',
  'given-up': 'said it is not needed',
  absent: 'absent for long',
  unused: 'unused for long',
  'never-used': 'never used'
};

export const RECLAIM_COLUMNS: Column<Schemas['SeatToReclaim']>[] = [
  { name: 'person_name', label: 'Person', text: (r) => r.person_name ?? 'nobody' },
  { name: 'login', label: 'Login', text: (r) => r.login, look: 'mono' },
  { name: 'reason', label: 'Because', text: (r) => BECAUSE[r.reason] ?? r.reason },
  {
    name: 'last_used',
    label: 'Last used',
    text: (r) => (r.last_used ? dateOf(r.last_used, session.zone) : 'not known'),
    look: 'soft'
  },
  {
    name: 'asked_at',
    label: 'Asked',
    text: (r) => (r.asked_at ? dateOf(r.asked_at, session.zone) : ''),
    look: 'soft'
  },
  { name: 'cost', label: 'A month', text: (r) => money(r.cost), look: 'num mono' }
];

const RESERVED: Record<Schemas['ReservationState'], string> = {
  later: 'from its first day on',
  open: 'set aside',
  'with-holder': 'once it is given back',
  used: 'used',
  over: 'over'
};

export const RESERVATION_COLUMNS: Column<Schemas['ReservationRow']>[] = [
  { name: 'person_name', label: 'For', text: (r) => r.person_name ?? r.who },
  { name: 'from_name', label: 'The seat of', text: (r) => r.from_name ?? r.from_login ?? '' },
  { name: 'count', label: 'Seats', text: (r) => `${r.taken} of ${r.count} taken`, look: 'soft' },
  { name: 'begins', label: 'From', text: (r) => (r.begins ? dateOf(r.begins, session.zone) : '') },
  { name: 'ends', label: 'To', text: (r) => dateOf(r.ends, session.zone) },
  { name: 'reason', label: 'Why', text: (r) => r.reason, look: 'soft' },
  { name: 'id', label: 'Act', text: () => '' },
  { name: 'state', label: 'State', text: (r) => RESERVED[r.state] ?? r.state }
];

export const ORDER_COLUMNS: Column<Schemas['OrderRow']>[] = [
  { name: 'name', label: 'Order', text: (r) => r.name, look: 'mono' },
  { name: 'count', label: 'Seats', text: (r) => String(r.count), look: 'num mono' },
  { name: 'arrived', label: 'Arrived', text: (r) => String(r.arrived), look: 'num mono' },
  {
    name: 'needed_by',
    label: 'Needed by',
    text: (r) => (r.needed_by ? dateOf(r.needed_by, session.zone) : '')
  },
  {
    name: 'expected',
    label: 'Expected',
    text: (r) => (r.expected ? dateOf(r.expected, session.zone) : '')
  },
  { name: 'reference', label: 'Reference', text: (r) => r.reference, look: 'soft' },
  { name: 'reason', label: 'What for', text: (r) => r.reason, look: 'soft' },
  { name: 'state', label: 'State', text: (r) => (r.overdue ? 'overdue' : r.state) }
];

export type Board = Schemas['BoardRow'] & { id: string };
/** What somebody owns who leaves or has left, and its new home. */
export const BOARD_COLUMNS: Column<Board>[] = [
  {
    name: 'name',
    label: 'Who',
    text: (r) => r.name,
    called: (r) => `${r.name}: ${kindOf(r)} in ${r.application_name}`,
    width: 14
  },
  { name: 'user_name', label: 'Login', text: (r) => r.user_name, look: 'mono', more: true },
  {
    name: 'leaves_at',
    label: 'Access ends',
    text: (r) => moment(r.leaves_at),
    at: (r) => r.leaves_at,
    look: 'soft'
  },
  { name: 'application_name', label: 'Application', text: (r) => r.application_name },
  { name: 'thing', label: 'What', text: (r) => things(r) },
  { name: 'settled', label: 'Its new home', text: (r) => newHome(r), width: 22 },
  { name: 'ground', label: 'Why', text: (r) => because(r) || '–', look: 'soft', more: true }
];
