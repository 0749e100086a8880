/** What reports are made of. */

/** One cell after the other, as they are read. */
export type Told = string[];
export interface Bar {
  label: string;
  count: number;
  says: string;
}
export interface Page<T> {
  items: T[];
  next?: string | null;
  total?: number | null;
}
export interface Report {
  name: string;
  head: string[];
  rows: Told[];
  bars: Bar[];
  /** There are more rows than are told here. */
  more: boolean;
}
/** What a page of rows is asked with. */
export interface Asking {
  limit: number;
  cursor?: string;
  begin?: string;
  end?: string;
}
export interface Kind<T> {
  name: string;
  says: string;
  head: string[];
  /** Columns of numbers and amounts. */
  counted: string[];
  page: (asked: Asking, signal: AbortSignal) => Promise<Page<T>>;
  row: (row: T, zone: string) => Told;
  draw: (rows: T[]) => Bar[];
  /** What its files are of, where not of its own name. */
  file?: string;
  /** Whether it is of a period that can be said. */
  period?: true;
}
export const kind = <T>(of: Kind<T>): Kind<never> => of as unknown as Kind<never>;
/** Numbers of the same word together, in the order in which the words come. */
export function summed<T>(
  rows: T[],
  word: (row: T) => string,
  count: (row: T) => number = () => 1
): Map<string, number> {
  const found = new Map<string, number>();
  for (const row of rows) found.set(word(row), (found.get(word(row)) ?? 0) + count(row));
  return found;
}

export const bars = (of: Map<string, number>, says = (n: number) => String(n)): Bar[] =>
  [...of].map(([label, count]) => ({ label, count, says: says(count) }));
