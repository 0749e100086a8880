import { describe, expect, it } from 'vitest';
import type { Schemas } from './api';
import { news, together } from './elsewhere.svelte';

const row = (more: Partial<Schemas['DocketRow']>): Schemas['DocketRow'] =>
  ({ id: 'd1', state: 'running', outcome: 'running', steps_stuck: 0, ...more }) as never;

describe('what became of a docket', () => {
  it('is told once, when it ends or gets stuck', () => {
    const done = row({ state: 'done', outcome: 'done' });
    expect(news(row({}), done)).toBe('done');
    expect(news(done, done)).toBe('');
    expect(news(row({}), row({ steps_stuck: 1 }))).toBe('stuck');
    expect(news(row({ steps_stuck: 1 }), row({ steps_stuck: 1 }))).toBe('');
    expect(news(row({ state: 'scheduled' }), row({}))).toBe('');
  });
  it('is not told of one that is seen for the first time', () => {
    expect(news(undefined, row({ state: 'done', outcome: 'done' }))).toBe('');
  });
});

describe('what became of many at once', () => {
  it('is one note, with how many are stuck', () => {
    const each = (text: string) => ({ title: 'MS-0001', text, to: '/dockets/MS-0001' });
    expect(together([each('done'), each('done'), each('cancelled'), each('done')])).toMatchObject({
      title: '4 of your dockets',
      text: 'ended'
    });
    const mixed = [each('done'), each('stuck'), each('done'), each('stuck')];
    expect(together(mixed).text).toBe('2 ended, 2 stuck');
  });
});
