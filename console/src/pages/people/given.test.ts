import { describe, expect, it } from 'vitest';
import { draw, type Row } from './given';

const row = (more: Partial<Row>): Row => ({
  application_id: 'crew',
  application_name: 'Crew',
  thing: 'roster',
  count: 1,
  number: 'MS-0001',
  at: '2031-03-03T08:40:00Z',
  to_id: 'a',
  to_name: 'Ada',
  now_id: 'a',
  now_name: 'Ada',
  ...more
});

describe('who has now what somebody had', () => {
  it('draws a kind once, each holder once, and a line for each way', () => {
    const drawn = draw([
      row({ count: 3 }),
      row({ count: 2, to_id: 'b', to_name: 'Bo', now_id: 'b', now_name: 'Bo' }),
      row({ thing: 'board' })
    ]);
    expect(drawn.things.map((t) => t.name)).toEqual(['5 rosters · Crew', '1 board · Crew']);
    expect(drawn.holders.map((h) => h.name)).toEqual(['Ada', 'Bo']);
    expect(drawn.lines.map((l) => l.stays)).toEqual([true, true, true]);
    expect(drawn.lines[0]!.width).toBeGreaterThan(drawn.lines[2]!.width);
  });

  it('tells what is with somebody else by now, or with nobody', () => {
    const drawn = draw([
      row({ now_id: 'b', now_name: 'Bo' }),
      row({ thing: 'board', now_id: null, now_name: '' })
    ]);
    expect(drawn.lines.map((l) => l.stays)).toEqual([false, false]);
    expect(drawn.holders.map((h) => h.name)).toEqual(['Bo', 'nobody who is known']);
  });
});
