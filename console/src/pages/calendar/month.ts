/** Days as `2031-03-07`, which is how the calendar names them. */

/** The day of a moment in a zone. */
export function dayKey(at: string, zone: string): string {
  return new Intl.DateTimeFormat('en-CA', {
    timeZone: zone,
    year: 'numeric',
    month: '2-digit',
    day: '2-digit'
  }).format(new Date(at));
}

/** A day so many days later. */
export function shifted(day: string, by: number): string {
  const date = new Date(`${day}T00:00:00Z`);
  date.setUTCDate(date.getUTCDate() + by);
  return date.toISOString().slice(0, 10);
}

/** All days of the weeks, Monday first, that a month lies in. */
export function monthDays(month: string): string[] {
  const first = new Date(`${month}-01T00:00:00Z`);
  const before = (first.getUTCDay() + 6) % 7;
  const last = new Date(Date.UTC(first.getUTCFullYear(), first.getUTCMonth() + 1, 0));
  const weeks = Math.ceil((before + last.getUTCDate()) / 7);
  return Array.from({ length: weeks * 7 }, (_, index) => shifted(`${month}-01`, index - before));
}

/** `March 2031`. */
export function monthName(month: string): string {
  return new Date(`${month}-01T00:00:00Z`).toLocaleDateString('en-GB', {
    month: 'long',
    year: 'numeric',
    timeZone: 'UTC'
  });
}
