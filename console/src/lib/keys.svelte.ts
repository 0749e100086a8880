/** Keys that work everywhere: / searches, g and a letter goes to a page, ? shows them. */
import { router, type View } from './router.svelte';

/** Pages by the letter that follows g, in the order of the list of pages. */
export const PAGES: Record<string, { view: View; name: string }> = {
  d: { view: { page: 'day' }, name: 'day sheet' },
  c: { view: { page: 'calendar' }, name: 'calendar' },
  p: { view: { page: 'people', q: '' }, name: 'people' },
  j: { view: { page: 'joiners' }, name: 'joiners' },
  k: { view: { page: 'dockets' }, name: 'dockets' },
  s: { view: { page: 'seats' }, name: 'seats' },
  g: { view: { page: 'groups' }, name: 'groups' },
  t: { view: { page: 'waiting' }, name: 'waiting' },
  a: { view: { page: 'applications' }, name: 'applications' },
  f: { view: { page: 'findings' }, name: 'findings' },
  l: { view: { page: 'last-call' }, name: 'last call' },
  r: { view: { page: 'rules' }, name: 'rules' },
  m: { view: { page: 'mail' }, name: 'mail' },
  o: { view: { page: 'access' }, name: 'access' },
  w: { view: { page: 'words' }, name: 'words' }
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
      const page = PAGES[event.key];
      if (page) router.go(page.view);
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
