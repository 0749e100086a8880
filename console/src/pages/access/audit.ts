/** What the audit log keeps of an event, in a line: names and what they say. */
import type { Schemas } from '../../lib/api';
import { href } from '../../lib/router.svelte';

type Json = unknown;

function plain(value: Json): string {
  if (value === null || value === undefined || value === '') return '–';
  if (Array.isArray(value)) return value.map(plain).join(', ');
  if (typeof value === 'object')
    return Object.entries(value)
      .map(([name, one]) => `${name} ${plain(one)}`)
      .join(', ');
  return String(value);
}

export function told(payload: Json): string {
  if (!payload || typeof payload !== 'object') return '';
  return Object.entries(payload)
    .map(([name, value]) => `${name.replaceAll('_', ' ')}: ${plain(value)}`)
    .join('; ');
}

/** The page of what an event is about, and its word; none where it has no page. */
export function about(row: Schemas['AuditEvent']): { word: string; at: string } | null {
  const word = row.subject_name;
  if (row.docket_id)
    return { word: word ?? 'docket', at: href({ page: 'docket', name: row.docket_id }) };
  if (word && ofPerson(row.action)) return { word, at: href({ page: 'person', who: row.subject }) };
  if (row.action.startsWith('application.'))
    return { word: row.subject, at: href({ page: 'application', id: row.subject }) };
  return null;
}

/** Whether an event is about somebody whose page there is: whoever was merged or declined has none. */
function ofPerson(action: string): boolean {
  return action.startsWith('person.') && !['person.declined', 'person.merged'].includes(action);
}
