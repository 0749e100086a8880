import { beforeEach, describe, expect, it } from 'vitest';
import { BY_KEY, keys } from './keys.svelte';
import { LISTED } from './pages';
import { router } from './router.svelte';

function press(key: string, more: KeyboardEventInit = {}, target: EventTarget = document.body) {
  const event = new KeyboardEvent('keydown', { key, ...more });
  Object.defineProperty(event, 'target', { value: target });
  keys.handle(event);
}

describe('keys', () => {
  beforeEach(() => {
    router.go({ page: 'nowhere', path: '/start' });
  });

  it.each(Object.entries(BY_KEY))('g %s goes to its page', (key, page) => {
    press('g');
    press(key);
    expect(router.view.page).toBe(page);
  });

  it('reaches every page that stands in the list of pages', () => {
    expect(Object.values(BY_KEY).sort()).toEqual([...LISTED].sort());
  });

  it('leaves alone what is typed and what belongs to the browser', () => {
    press('g', {}, document.createElement('input'));
    press('p');
    press('g', { ctrlKey: true });
    press('d');
    expect(router.view.page).toBe('nowhere');
  });

  it('forgets the g after a letter that leads nowhere', () => {
    press('g');
    press('x');
    press('p');
    expect(router.view.page).toBe('nowhere');
  });
});
