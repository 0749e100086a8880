/** What the audit log keeps of an event, in a line: names and what they say. */
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

/** Whether an event is about somebody whose page there is: whoever was merged or declined has none. */
export function ofPerson(action: string): boolean {
  return action.startsWith('person.') && !['person.declined', 'person.merged'].includes(action);
}
