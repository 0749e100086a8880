/** History routing with typed addresses; a page is drawn once its code is there. */
import { tick, type Component } from 'svelte';
import type { Schemas } from './api';
import Missing from './components/Missing.svelte';
import { LISTED, PAGES, type Entry, type Named } from './pages';

/** What a list is asked for, by the names the service has for it. */
export type Query = Readonly<Record<string, string>>;

export type View =
  | { page: Named; query?: Query }
  | { page: 'person'; who: string; query?: Query }
  | { page: 'docket'; name: string }
  | { page: 'application'; id: string; query?: Query }
  | { page: 'approve' }
  | { page: 'keep' }
  | { page: 'takeover' }
  | { page: 'welcome' }
  | { page: 'credential' }
  | { page: 'nowhere'; path: string };

/** A view with what draws it. */
export interface Shown {
  view: View;
  Page: Component<any>; // eslint-disable-line @typescript-eslint/no-explicit-any
  bare: boolean;
  /** Another one is another page to draw; a list that is asked for something else stays. */
  key: string;
}

function asked(query: Query = {}): string {
  const text = new URLSearchParams(query).toString();
  return text && `?${text}`;
}

const OF_ACCESS: Schemas['ListName'][] = ['operators', 'integrations', 'tokens', 'shared', 'audit'];

/** Where a list stands: some are parts of a page. */
export function listAt(list: Schemas['ListName'], query: Query): View {
  if (OF_ACCESS.includes(list)) return { page: 'access', query: { part: list, ...query } };
  return { page: list, query } as View;
}

/** The address of a view. */
export function href(view: View): string {
  switch (view.page) {
    case 'day':
      return '/';
    case 'person':
      return `/people/${encodeURIComponent(view.who)}${asked(view.query)}`;
    case 'docket':
      return `/dockets/${encodeURIComponent(view.name)}`;
    case 'application':
      return `/applications/${encodeURIComponent(view.id)}${asked(view.query)}`;
    case 'credential':
      return '/c';
    case 'approve':
      return '/a';
    case 'keep':
      return '/k';
    case 'takeover':
      return '/t';
    case 'nowhere':
      return view.path;
    case 'welcome':
      return '/welcome';
    default:
      return `/${view.page}${asked(view.query)}`;
  }
}

/** The address of whose an account is; of one with nobody behind it, that of the account itself. */
export function whose(person: string | null, login: string | null): string {
  if (person) return href({ page: 'person', who: person });
  return href({ page: 'accounts', query: login ? { q: login } : {} });
}

/** The parts of a path; what cannot be decoded stays as it was typed. */
function partsOf(path: string): string[] {
  const parts = path.slice(1).split('/');
  try {
    return parts.map(decodeURIComponent);
  } catch {
    return parts;
  }
}

/** The view of an address. */
export function viewOf(url: URL): View {
  const [first = '', second] = partsOf(url.pathname);
  if (first === '') return { page: 'day' };
  const said = Object.fromEntries(url.searchParams);
  const query = Object.keys(said).length ? { query: said } : {};
  if (first === 'people' && second) return { page: 'person', who: second, ...query };
  if (first === 'dockets' && second) return { page: 'docket', name: second };
  if (first === 'applications' && second) return { page: 'application', id: second, ...query };
  if (first === 'c') return { page: 'credential' };
  if (first === 'a') return { page: 'approve' };
  if (first === 'k') return { page: 'keep' };
  if (first === 't') return { page: 'takeover' };
  if (first === 'welcome') return { page: 'welcome' };
  const plain = LISTED.find((page) => page === first && page !== 'day');
  if (plain) return { page: plain, ...query };
  return { page: 'nowhere', path: url.pathname };
}

/** The page of a view; null where its code cannot be had. */
async function opened(view: View): Promise<Shown | null> {
  const entry: Entry = PAGES[view.page];
  try {
    const key = entry.name ? view.page : href(view).split('?')[0]!;
    return { view, Page: (await entry.load()).default, bare: entry.bare ?? false, key };
  } catch {
    return null;
  }
}

/** What is drawn where the service has been updated meanwhile is asked for once more, whole. */
const AFRESH = 'yugum-afresh';
/** Milliseconds in which a page that is returned to may fill up to where it was left. */
const PATIENCE = 3000;

class Router {
  view = $state.raw<View>(viewOf(new URL(location.href)));
  shown = $state.raw<Shown | null>(null);
  private turn = 0;
  private returning: (() => void) | null = null;

  constructor() {
    history.scrollRestoration = 'manual';
    addEventListener('popstate', (event) => this.follow(event.state));
    addEventListener('scrollend', () => this.remember());
    document.addEventListener('click', (event) => this.click(event));
    void this.show(placeIn(history.state), false);
  }

  go(view: View, replace = false): void {
    history[replace ? 'replaceState' : 'pushState'](null, '', href(view));
    this.view = view;
    void this.show(0);
  }

  private follow(state: unknown): void {
    this.view = viewOf(new URL(location.href));
    void this.show(placeIn(state));
  }

  /** Draw the view once its code is there; a later one overtakes. The page is told to those who listen to it. */
  private async show(y: number, focus = true): Promise<void> {
    const turn = ++this.turn;
    this.returning?.();
    const next = await opened(this.view);
    if (turn !== this.turn) return;
    if (next) sessionStorage.removeItem(AFRESH);
    else if (sessionStorage.getItem(AFRESH) !== location.href) {
      sessionStorage.setItem(AFRESH, location.href);
      location.reload();
      return;
    }
    const stays = next !== null && next.key === this.shown?.key;
    this.shown = next ?? {
      view: this.view,
      Page: Missing,
      bare: false,
      key: `missing ${href(this.view)}`
    };
    await tick();
    if (stays && y === 0) return;
    if (focus) document.getElementById('content')?.focus({ preventScroll: true });
    this.returnTo(y);
  }

  private remember(): void {
    if (!this.returning) history.replaceState({ y: scrollY }, '');
  }

  /** Scroll to where the page was left, again while its data come in, until somebody does something. */
  private returnTo(y: number): void {
    scrollTo(0, y);
    if (!y || typeof ResizeObserver === 'undefined') return;
    const watch = new ResizeObserver(() => {
      scrollTo(0, y);
      if (Math.abs(scrollY - y) < 2) this.returning?.();
    });
    const signs = ['wheel', 'keydown', 'touchstart'];
    const end = (): void => {
      watch.disconnect();
      clearTimeout(timer);
      signs.forEach((sign) => removeEventListener(sign, end));
      this.returning = null;
    };
    const timer = setTimeout(end, PATIENCE);
    signs.forEach((sign) => addEventListener(sign, end, { passive: true }));
    this.returning = end;
    watch.observe(document.body);
  }

  /** Plain clicks on our own links stay in the page; all others are the browser's. */
  private click(event: MouseEvent): void {
    const link = (event.target as Element).closest?.('a[href]');
    if (!(link instanceof HTMLAnchorElement) || event.defaultPrevented || event.button !== 0)
      return;
    if (event.metaKey || event.ctrlKey || event.shiftKey || event.altKey) return;
    if (link.target || link.origin !== location.origin || link.hasAttribute('download')) return;
    if (link.pathname.startsWith('/api/') || link.getAttribute('href')!.startsWith('#')) return;
    event.preventDefault();
    this.go(viewOf(new URL(link.href)));
  }
}

function placeIn(state: unknown): number {
  return typeof state === 'object' && state !== null && 'y' in state ? Number(state.y) : 0;
}

export const router = new Router();
