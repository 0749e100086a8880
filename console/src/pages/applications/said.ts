/** What is typed about an application to be connected, as the service takes it. */

/** A short name made of a name; it stays so until somebody writes an own one. */
export const slug = (text: string): string =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '');

/** Lines of `name=value` as options. */
export function pairs(text: string): Record<string, string> {
  const lines = text.split('\n').filter((line) => line.includes('='));
  return Object.fromEntries(
    lines.map((line) => {
      const at = line.indexOf('=');
      return [line.slice(0, at).trim(), line.slice(at + 1).trim()];
    })
  );
}
