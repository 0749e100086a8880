import { describe, expect, it } from 'vitest';
import type { Schemas } from './api';
import { LEFT, Lifeline, ROW, TOP } from './lifeline.svelte';

type Bar = Schemas['Bar'];

const NOW = '2031-03-03T08:40:00Z';

function bar(state: string, start: string, until: string | null, planned = false): Bar {
  return { state, start, until, planned } as Bar;
}

function line(bars: Bar[], more: Partial<Schemas['PersonView']> = {}): Lifeline {
  const view = {
    now: NOW,
    accounts: [
      { application_name: 'Crew rosters', application_kind: 'scim', window: '30 days', bars }
    ],
    coming: [],
    dockets: [],
    next: [],
    ...more
  } as unknown as Schemas['PersonView'];
  const made = new Lifeline(
    () => view,
    () => 'UTC'
  );
  made.width = 1000;
  return made;
}

describe('a lifeline', () => {
  it('puts now between what was and what will be, at every zoom', () => {
    const one = line([]);
    for (const zoom of ['week', 'month', 'year'] as const) {
      one.zoom = zoom;
      const x = one.x(one.now);
      expect(x).toBeGreaterThan(LEFT);
      expect(x).toBeLessThan(1000 - 2);
      expect(one.x(one.now - 1e12)).toBe(LEFT);
      expect(one.x(one.now + 1e12)).toBe(998);
    }
  });

  it('has a lane for each application', () => {
    expect(line([]).height).toBe(TOP + ROW + 6);
  });

  it('draws what lies in view, one bar after the other without a gap', () => {
    const one = line([
      bar('active', '2031-02-10T00:00:00Z', '2031-03-07T17:00:00Z'),
      bar('suspended', '2031-03-07T17:00:00Z', '2031-03-14T17:00:00Z', true),
      bar('deleted', '2031-03-14T17:00:00Z', '2031-04-13T17:00:00Z', true),
      bar('active', '2019-01-01T00:00:00Z', '2020-01-01T00:00:00Z')
    ]);
    const drawn = one.drawn(one.lanes[0]!);
    expect(drawn.map((d) => d.state)).toEqual(['active', 'suspended', 'deleted']);
    expect(drawn.map((d) => d.planned)).toEqual([false, true, true]);
    expect(drawn[0]!.x + drawn[0]!.width).toBeCloseTo(drawn[1]!.x);
    expect(drawn[1]!.x + drawn[1]!.width).toBeCloseTo(drawn[2]!.x);
    expect(drawn.every((d) => d.ends)).toBe(true);
    expect(drawn[2]!.label).toBe('back until 13 Apr');
  });

  it('lets what has no end run out of the picture', () => {
    const one = line([bar('active', '2030-01-01T00:00:00Z', null)]);
    const [drawn] = one.drawn(one.lanes[0]!);
    expect(drawn!.ends).toBe(false);
    expect(drawn!.x + drawn!.width).toBe(998);
  });

  it('leaves a label out where there is no room for it', () => {
    const one = line([bar('suspended', '2031-03-07T17:00:00Z', '2031-03-07T18:00:00Z', true)]);
    expect(one.drawn(one.lanes[0]!)[0]!.label).toBe('');
  });

  it('rules months, and Mondays when it is near', () => {
    const one = line([]);
    one.zoom = 'year';
    expect(one.rules.map((r) => r.label)).toContain('1 Jun');
    one.zoom = 'week';
    expect(one.rules.map((r) => r.label)).toContain('10 Mar');
    expect(one.rules.map((r) => r.label)).not.toContain('3 Mar'); // too near the line for now
  });

  it('walks through its events by keys and says them', () => {
    const one = line([], {
      dockets: [
        { number: 'MS-2', verb: 'mover', due_at: '2031-02-02T10:00:00Z', state: 'done' },
        { number: 'MS-3', verb: 'leaver', due_at: '2031-02-03T10:00:00Z', state: 'cancelled' },
        { number: 'MS-1', verb: 'joiner', due_at: '2030-02-02T10:00:00Z', state: 'done' }
      ],
      next: [{ at: '2031-03-07T17:00:00Z', text: 'Cut off', because: 'leaves' }]
    } as unknown as Partial<Schemas['PersonView']>);
    expect(one.events.map((e) => e.text)).toEqual([
      'joiner MS-1, done',
      'mover MS-2, done',
      'Cut off (leaves)'
    ]);
    expect(one.spoken).toBe('');
    const press = (key: string) => {
      const event = new KeyboardEvent('keydown', { key, cancelable: true });
      one.key(event);
      return event.defaultPrevented;
    };
    for (let n = 0; n < 5; n += 1) press('ArrowRight');
    expect(one.spoken).toMatch(/7 Mar 2031, 17:00:00 .*: Cut off \(leaves\)$/);
    for (let n = 0; n < 5; n += 1) press('ArrowLeft');
    expect(one.spoken).toContain('joiner MS-1');
    expect(press('t')).toBe(true);
    expect(one.table).toBe(true);
    expect(press('x')).toBe(false);
  });
});
