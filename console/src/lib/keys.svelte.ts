/** Keys that work everywhere: / searches, g and a letter goes to a page, ? shows them. */
import { LISTED, PAGES, type Named } from './pages';
import { router } from './router.svelte';

/** Pages by the letter that follows g. */
export const BY_KEY: Record<string, Named> = Object.fromEntries(
  LISTED.map((page) => [PAGES[page].key, page])
);

/** Whether what is pressed is text that is being typed. */
export function typing(target: EventTarget | null): boolean {
  return target instanceof Element && target.closest('input, textarea, select') !== null;
}

class Keys {
  help = $state(false);
  private going = false;

  handle(event: KeyboardEvent): void {
    if (event.metaKey || event.ctrlKey || event.altKey || typing(event.target)) return;
    if (this.going) {
      this.going = false;
      const page = BY_KEY[event.key];
      if (page) router.go({ page });
      return;
    }
    if (event.key === 'g') this.going = true;
    else if (event.key === '/') {
      event.preventDefault();
      document.querySelector<HTMLInputElement>('#search')?.focus();
    } else if (event.key === '?') this.help = true;
    else if (event.key === 'j' || event.key === 'k') moveRow(event.key === 'j' ? 1 : -1);
  }
}

/** Move through the rows of the page's first list; Enter opens the row's link. */
function moveRow(step: number): void {
  const links = [...document.querySelectorAll<HTMLAnchorElement>('main table.list .name a')];
  if (!links.length) return;
  const now = links.indexOf(document.activeElement as HTMLAnchorElement);
  const next = now < 0 ? 0 : Math.min(links.length - 1, Math.max(0, now + step));
  links[next]?.focus();
}

export const keys = new Keys();
