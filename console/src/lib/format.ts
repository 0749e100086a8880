/** Times, amounts and counts as people read them; a time always names its zone on hover. */
import { times } from './times.svelte';

function parts(zone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  return new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options });
}

const CLOCK: Intl.DateTimeFormatOptions = { hour: '2-digit', minute: '2-digit', hour12: false };

export function clockOf(at: string, zone: string): string {
  return parts(zone, CLOCK).format(new Date(at));
}

/** A day without a time (2031-03-03) is that day in every zone. */
const placed = (at: string, zone: string): string => (at.length === 10 ? 'UTC' : zone);

export function dayOf(at: string, zone: string): string {
  return parts(placed(at, zone), { weekday: 'short', day: 'numeric', month: 'short' }).format(
    new Date(at)
  );
}

export function dateOf(at: string, zone: string): string {
  return parts(placed(at, zone), { day: 'numeric', month: 'short', year: 'numeric' }).format(
    new Date(at)
  );
}

export function longDay(at: string, zone: string): string {
  return parts(placed(at, zone), { weekday: 'long', day: 'numeric', month: 'long' }).format(
    new Date(at)
  );
}

export function yearOf(at: string, zone: string): string {
  return parts(placed(at, zone), { year: 'numeric' }).format(new Date(at));
}

/** A moment of another year says which. */
export function momentOf(at: string, zone: string): string {
  const year = yearOf(at, zone);
  const said = times.year && year !== times.year ? ` ${year}` : '';
  return `${dayOf(at, zone)}${said} ${clockOf(at, zone)}`;
}

/** The exact moment with its zone, for titles and screen readers. */
export function exactly(at: string, zone: string): string {
  const date = new Date(at);
  const name = parts(zone, { timeZoneName: 'short' }).formatToParts(date);
  const short = name.find((p) => p.type === 'timeZoneName')?.value ?? zone;
  const day = parts(zone, {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric'
  }).format(date);
  return `${day}, ${parts(zone, { ...CLOCK, second: '2-digit' }).format(date)} ${short}`;
}

export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

export function plural(count: number, word: string, words = `${word}s`): string {
  return count === 1 ? `1 ${word}` : `${count} ${words}`;
}

/** Amounts by currency (ISO 4217), as the service writes them. */
export type Money = Record<string, string>;

/** An amount with all the digits of its currency. */
export function amount(value: string, currency: string): string {
  return new Intl.NumberFormat('en-GB', { style: 'currency', currency }).format(Number(value));
}

/** Amounts in words; two currencies are never one sum. */
export function money(amounts: Money | null | undefined): string {
  return Object.entries(amounts ?? {})
    .sort()
    .map(([currency, value]) => amount(value, currency))
    .join(' + ');
}

const PARTS = 10_000;

/** Each currency added up for itself. */
export function together(some: Array<Money | null | undefined>): Money {
  const sums: Record<string, number> = {};
  for (const [currency, value] of some.flatMap((m) => Object.entries(m ?? {})))
    sums[currency] = (sums[currency] ?? 0) + Math.round(Number(value) * PARTS);
  return Object.fromEntries(Object.entries(sums).map(([c, n]) => [c, (n / PARTS).toFixed(2)]));
}

export function took(ms: number): string {
  return ms < 1000 ? `${Math.max(0.01, ms / 1000).toFixed(2)} s` : `${(ms / 1000).toFixed(1)} s`;
}

/** How long from a moment (ms) until another: hours, or days from two on. */
export function left(until: string, now: number): string {
  const hours = Math.floor((Date.parse(until) - now) / 3_600_000);
  return hours < 48 ? plural(hours, 'hour') : plural(Math.floor(hours / 24), 'day');
}

/** A value as people read it: a moment in full with its zone, anything else as it is. */
export function worded(value: string, zone: string): string {
  return /^\d{4}-\d\d-\d\dT[\d:.]+(Z|[+-]\d\d:\d\d)$/.test(value) ? exactly(value, zone) : value;
}
