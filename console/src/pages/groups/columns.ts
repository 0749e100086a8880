/** The columns the list of groups can show. */
import type { Schemas } from '../../lib/api';
import type { Column } from '../../lib/listing.svelte';
import { momentOf } from '../../lib/format';
import { session } from '../../lib/session.svelte';

type Row = Schemas['GroupRow'];
const stands = (row: Row): string => {
  if (row.state !== 'deleted') return 'in use';
  const until = row.back_until ? momentOf(row.back_until, session.zone) : 'further notice';
  return `retired, back until ${until}`;
};

export const GROUP_COLUMNS: Column<Row>[] = [
  {
    name: 'name',
    label: 'Group',
    text: (r) => r.name,
    called: (r) => `${r.name} in ${r.application_name}`,
    width: 12
  },
  { name: 'application_name', label: 'Application', text: (r) => r.application_name },
  { name: 'owner_name', label: 'Owner', text: (r) => r.owner_name ?? 'nobody' },
  { name: 'address', label: 'Address', text: (r) => r.address },
  { name: 'outside_senders', label: 'Outside senders', text: (r) => r.outside_senders, width: 8 },
  { name: 'description', label: 'What for', text: (r) => r.description, look: 'soft', more: true },
  { name: 'members', label: 'In it', text: (r) => String(r.members), look: 'num mono', width: 5 },
  { name: 'state', label: 'State', text: stands, width: 12 }
];
