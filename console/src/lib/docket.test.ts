import { describe, expect, it } from 'vitest';
import { DocketState, type Docket, type StepRow } from './docket.svelte';
import { counted } from './phases';

function step(more: Partial<StepRow>): StepRow {
  return {
    id: 's',
    application_name: 'Crew rosters',
    phase: 'secure',
    action: 'cut_off',
    item: '',
    before: '',
    after: '',
    state: 'due',
    problem: null,
    receipt: null,
    moved: 0,
    of: 0,
    ...more
  } as StepRow;
}

function docket(...steps: StepRow[]): DocketState {
  const data = { state: 'running', steps } as unknown as Docket;
  return new DocketState('MS-1', { data, problem: null });
}

const done = (ms: number, more = {}) => ({ took_ms: ms, outcome: 'done', did: {}, ...more });

describe('a docket', () => {
  it('names its phases in their order and its applications by name', () => {
    const one = docket(
      step({ phase: 'reclaim', application_name: 'Mail' }),
      step({ phase: 'secure' }),
      step({ phase: 'hand over' })
    );
    expect(one.phases).toEqual(['secure', 'hand over', 'reclaim']);
    expect(one.applications).toEqual(['Crew rosters', 'Mail']);
  });

  it('tells who could still get in', () => {
    const one = docket(
      step({ state: 'done' }),
      step({ state: 'settling', application_name: 'Mail' }),
      step({ state: 'left_out', application_name: 'Radio' }),
      step({ state: 'due', action: 'revoke', application_name: 'Rosters' })
    );
    expect(one.stillOpen.map((s) => s.application_name)).toEqual(['Mail']);
  });

  it('calls stuck what the service calls so', () => {
    const problem = { code: 'task', text: 'A task is open.', remedy: '' };
    const one = docket(
      step({ state: 'attention', stuck: true }),
      step({ state: 'waiting', stuck: true }),
      step({ state: 'due', problem, stuck: true }),
      step({ state: 'done', problem }),
      step({ state: 'due' })
    );
    expect(one.stuck).toHaveLength(3);
    expect(one.cell('Crew rosters', 'secure').state).toBe('stuck');
    expect(one.cell('Mail', 'secure')).toEqual({ state: 'none', text: '–', more: '' });
  });

  it('says in a cell what was done, how much and how long it took', () => {
    const one = docket(
      step({ action: 'revoke', phase: 'reclaim', state: 'done', receipt: done(120) as never }),
      step({ action: 'revoke', phase: 'reclaim', state: 'done', receipt: done(340) as never }),
      step({ action: 'free_seat', phase: 'reclaim', state: 'done', receipt: done(10) as never })
    );
    const cell = one.cell('Crew rosters', 'reclaim');
    expect(cell.state).toBe('done');
    expect(cell.text).toBe('2 groups removed, seat freed');
    expect(cell.more).toBe('0.34 s');
  });

  it('counts what was handed over, and says when nothing had to be done', () => {
    const many = { moved: 100_000, of: 100_000 };
    const one = docket(
      step({ action: 'transfer', state: 'done', receipt: done(5) as never, ...many }),
      step({ action: 'copy', state: 'done', receipt: done(5) as never, moved: 7, of: 7 }),
      step({
        application_name: 'Mail',
        state: 'done',
        receipt: done(3, { outcome: 'already' }) as never
      })
    );
    expect(one.cell('Crew rosters', 'secure').text).toBe('100000 items handed over, copied');
    expect(one.cell('Mail', 'secure').more).toBe('was so already');
  });

  it('says what was left out', () => {
    const one = docket(step({ state: 'left_out' }));
    expect(one.cell('Crew rosters', 'secure').text).toBe('left out');
  });
});

describe('a plan', () => {
  it('is counted in words', () => {
    const steps = [
      { action: 'cut_off', item: '', before: '', after: '' },
      { action: 'revoke', item: 'a', before: '', after: '' },
      { action: 'revoke', item: 'b', before: '', after: '' },
      { action: 'free_seat', item: 'p', before: '', after: '' },
      { action: 'set', item: 'container', before: '', after: 'leavers' },
      { action: 'transfer', item: 'roster', before: '3 rosters owned', after: 'to Mara Quill' }
    ];
    expect(counted(steps as never)).toEqual([
      'cut off',
      '2 entitlements removed',
      '1 seat freed',
      'container set',
      '3 rosters to Mara Quill'
    ]);
  });
});
