/** The columns the lists of *Access* can show. */
import type { Schemas } from '../../lib/api';
import { momentOf } from '../../lib/format';
import type { Column } from '../../lib/listing.svelte';
import { session } from '../../lib/session.svelte';
import { told } from './audit';

const moment = (at: string): string => momentOf(at, session.zone);

export const OPERATOR_COLUMNS: Column<Schemas['OperatorRow']>[] = [
  { name: 'login', label: 'Login', text: (r) => r.login, look: 'mono' },
  { name: 'name', label: 'Name', text: (r) => r.name },
  { name: 'role', label: 'Role', text: (r) => r.role },
  { name: 'active', label: 'State', text: (r) => (r.active ? 'active' : 'disabled') }
];

export const INTEGRATION_COLUMNS: Column<Schemas['IntegrationRow']>[] = [
  { name: 'login', label: 'Login', text: (r) => r.login, look: 'mono' },
  { name: 'name', label: 'Name', text: (r) => r.name },
  { name: 'role', label: 'May do as', text: (r) => r.role },
  { name: 'owner', label: 'Answers for it', text: (r) => r.owner, look: 'mono' },
  { name: 'active', label: 'State', text: (r) => (r.active ? 'works' : 'ended') }
];

export const TOKEN_COLUMNS: Column<Schemas['TokenRow']>[] = [
  { name: 'name', label: 'Name', text: (r) => r.name, called: (r) => `${r.name} of ${r.of}` },
  { name: 'of', label: 'Of', text: (r) => r.of, look: 'mono' },
  { name: 'scopes', label: 'May do as', text: (r) => r.scopes.join(', ') },
  {
    name: 'expires',
    label: 'Until',
    text: (r) => (r.expires ? moment(r.expires) : 'it is revoked'),
    at: (r) => r.expires
  }
];

export const SHARED_COLUMNS: Column<Schemas['SharedRow']>[] = [
  { name: 'name', label: 'Credential', text: (r) => r.name },
  { name: 'place', label: 'Where', text: (r) => r.place },
  { name: 'owner_name', label: 'Who changes it', text: (r) => r.owner_name ?? 'nobody is named' },
  { name: 'known_by', label: 'Known by', text: (r) => String(r.known_by), look: 'num mono' },
  { name: 'left', label: 'Knew it and left', text: (r) => r.left.join(', ') || '–' },
  {
    name: 'due_since',
    label: 'To be changed since',
    text: (r) => (r.due_since ? moment(r.due_since) : '–'),
    at: (r) => r.due_since,
    more: true
  },
  {
    name: 'changed_at',
    label: 'Changed',
    text: (r) => moment(r.changed_at),
    at: (r) => r.changed_at
  }
];

export const AUDIT_COLUMNS: Column<Schemas['AuditEvent']>[] = [
  {
    name: 'at',
    label: 'When',
    text: (r) => moment(r.at),
    called: (r) => `${r.action} of ${moment(r.at)}`,
    look: 'line'
  },
  { name: 'actor', label: 'Who', text: (r) => r.actor, look: 'mono' },
  { name: 'action', label: 'Did', text: (r) => r.action, look: 'mono' },
  { name: 'subject_name', label: 'About', text: (r) => r.subject_name ?? '' },
  { name: 'payload', label: 'What of it', text: (r) => told(r.payload), look: 'broken' },
  {
    name: 'machine_at',
    label: 'By the machine’s clock',
    text: (r) => moment(r.machine_at),
    more: true
  },
  {
    name: 'leaf_index',
    label: 'Sealed as',
    text: (r) => (r.leaf_index === null ? 'not yet' : String(r.leaf_index)),
    look: 'num mono'
  }
];
