/** The columns the list of joiners can show. */
import type { Schemas } from '../../lib/api';
import type { Column } from '../../lib/listing.svelte';

const weekday = (day: string): string =>
  new Date(`${day}T12:00:00Z`).toLocaleDateString('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC'
  });

export const JOINER_COLUMNS: Column<Schemas['JoinerRow']>[] = [
  { name: 'display_name', label: 'Name', text: (r) => r.display_name, width: 12 },
  { name: 'starts', label: 'First day', text: (r) => weekday(r.starts), width: 9 },
  { name: 'title', label: 'Title', text: (r) => r.title },
  { name: 'department', label: 'Department', text: (r) => r.department },
  { name: 'site', label: 'Site', text: (r) => r.site, look: 'soft', more: true },
  { name: 'user_name', label: 'Login', text: (r) => r.user_name, look: 'mono', more: true },
  {
    name: 'missing',
    label: 'Missing',
    text: (r) => r.missing.join('; ') || 'nothing',
    width: 14
  },
  {
    name: 'lines',
    label: 'In each application',
    text: (r) =>
      r.lines.map((l) => `${l.application_name}: ${l.state || 'not made yet'}`).join(', '),
    width: 32
  },
  { name: 'ready', label: 'State', text: (r) => (r.ready ? 'ready' : 'not ready'), width: 6 }
];
