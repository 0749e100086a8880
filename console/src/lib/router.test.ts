import { beforeEach, describe, expect, it } from 'vitest';
import { href, router, viewOf, type View } from './router.svelte';

const VIEWS: View[] = [
  { page: 'day' },
  { page: 'people' },
  { page: 'people', query: { q: 'rook & sons', sort: 'begins', order: 'descending' } },
  { page: 'person', who: 'o’brien/x 1%' },
  { page: 'docket', name: 'MS-0001' },
  { page: 'dockets' },
  { page: 'application', id: 'crew', query: { state: 'deleted' } },
  { page: 'application', id: 'a/b' },
  { page: 'reports', query: { report: 'leavers' } },
  { page: 'seats' },
  { page: 'groups' },
  { page: 'applications' },
  { page: 'handover' },
  { page: 'findings' },
  { page: 'waiting' },
  { page: 'last-call' },
  { page: 'joiners' },
  { page: 'calendar' },
  { page: 'rules' },
  { page: 'mails' },
  { page: 'access' },
  { page: 'words' },
  { page: 'welcome' },
  { page: 'approve' },
  { page: 'credential' }
];

describe('addresses', () => {
  it.each(VIEWS)('lead back to where they came from: %o', (view) => {
    expect(viewOf(new URL(href(view), 'http://here'))).toEqual(view);
  });

  it('that are none say so', () => {
    expect(viewOf(new URL('http://here/no/such'))).toEqual({ page: 'nowhere', path: '/no/such' });
  });

  it('that cannot be decoded do not break the page', () => {
    expect(viewOf(new URL('http://here/people/%E0%A4%A'))).toEqual({
      page: 'person',
      who: '%E0%A4%A'
    });
  });
});

describe('links', () => {
  beforeEach(() => {
    document.body.innerHTML = '';
    router.go({ page: 'day' });
  });

  function click(html: string, more: MouseEventInit = {}): boolean {
    document.body.innerHTML = html;
    const event = new MouseEvent('click', { bubbles: true, cancelable: true, button: 0, ...more });
    document.body.querySelector('a')!.dispatchEvent(event);
    return event.defaultPrevented;
  }

  it('of ours stay in the page', () => {
    expect(click('<a href="/people/drook">Dagny Rook</a>')).toBe(true);
    expect(router.view).toEqual({ page: 'person', who: 'drook' });
    expect(location.pathname).toBe('/people/drook');
  });

  it.each([
    ['elsewhere', '<a href="https://example.com/people">x</a>', {}],
    ['into a new tab', '<a href="/people" target="_blank">x</a>', {}],
    ['to a file', '<a href="/api/v1/dockets/MS-1/record">x</a>', {}],
    ['to be kept', '<a href="/people" download>x</a>', {}],
    ['within the page', '<a href="#main">x</a>', {}],
    ['with the control key', '<a href="/people">x</a>', { ctrlKey: true }],
    ['with the middle button', '<a href="/people">x</a>', { button: 1 }]
  ])('%s are the browser’s', (_, html, more) => {
    expect(click(html, more)).toBe(false);
    expect(router.view).toEqual({ page: 'day' });
  });

  it('go back with the browser', () => {
    router.go({ page: 'seats' });
    history.replaceState(null, '', '/dockets');
    dispatchEvent(new PopStateEvent('popstate'));
    expect(router.view).toEqual({ page: 'dockets' });
  });
});
