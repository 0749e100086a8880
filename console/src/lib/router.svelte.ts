/** History routing with typed addresses; a page gets its parameters as a snapshot. */

export type View =
  | { page: 'day' }
  | { page: 'people'; q: string }
  | { page: 'person'; who: string }
  | { page: 'dockets' }
  | { page: 'docket'; name: string }
  | { page: 'seats' }
  | { page: 'groups' }
  | { page: 'applications' }
  | { page: 'findings' }
  | { page: 'waiting' }
  | { page: 'last-call' }
  | { page: 'joiners' }
  | { page: 'calendar' }
  | { page: 'rules' }
  | { page: 'mail' }
  | { page: 'access' }
  | { page: 'words' }
  | { page: 'approve' }
  | { page: 'welcome' }
  | { page: 'credential' }
  | { page: 'nowhere'; path: string };

export const PLAIN = [
  'dockets',
  'seats',
  'groups',
  'applications',
  'findings',
  'waiting',
  'last-call',
  'joiners',
  'calendar',
  'rules',
  'mail',
  'access',
  'words',
  'welcome'
] as const;

/** The address of a view. */
export function href(view: View): string {
  switch (view.page) {
    case 'day':
      return '/';
    case 'people':
      return view.q ? `/people?q=${encodeURIComponent(view.q)}` : '/people';
    case 'person':
      return `/people/${encodeURIComponent(view.who)}`;
    case 'docket':
      return `/dockets/${encodeURIComponent(view.name)}`;
    case 'credential':
      return '/c';
    case 'approve':
      return '/a';
    case 'nowhere':
      return view.path;
    default:
      return `/${view.page}`;
  }
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
  if (first === 'people' && second) return { page: 'person', who: second };
  if (first === 'people') return { page: 'people', q: url.searchParams.get('q') ?? '' };
  if (first === 'dockets' && second) return { page: 'docket', name: second };
  if (first === 'c') return { page: 'credential' };
  if (first === 'a') return { page: 'approve' };
  const plain = PLAIN.find((page) => page === first);
  if (plain) return { page: plain };
  return { page: 'nowhere', path: url.pathname };
}

class Router {
  view = $state.raw<View>(viewOf(new URL(location.href)));

  constructor() {
    addEventListener('popstate', () => (this.view = viewOf(new URL(location.href))));
    document.addEventListener('click', (event) => this.follow(event));
  }

  go(view: View, replace = false): void {
    history[replace ? 'replaceState' : 'pushState'](null, '', href(view));
    this.view = view;
    scrollTo(0, 0);
  }

  /** Plain clicks on our own links stay in the page; all others are the browser's. */
  private follow(event: MouseEvent): void {
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

export const router = new Router();
