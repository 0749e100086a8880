import { describe, expect, it } from 'vitest';
import type { Schemas } from './api';
import { news } from './elsewhere.svelte';

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
