/** Keys that work everywhere: / searches, g and a letter goes to a page, ? shows them. */
import { router, type View } from './router.svelte';

const PAGES: Record<string, View> = {
  d: { page: 'day' },
  p: { page: 'people', q: '' },
  k: { page: 'dockets' },
  s: { page: 'seats' },
  j: { page: 'joiners' },
  c: { page: 'calendar' },
  w: { page: 'words' }
};

function typing(target: EventTarget | null): boolean {
  return target instanceof Element && target.closest('input, textarea, select') !== null;
}

class Keys {
  help = $state(false);
  private going = false;

  handle(event: KeyboardEvent): void {
    if (event.metaKey || event.ctrlKey || event.altKey || typing(event.target)) return;
    if (this.going) {
      this.going = false;
      const view = PAGES[event.key];
      if (view) router.go(view);
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
