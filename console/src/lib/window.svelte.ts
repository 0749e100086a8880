/** Which rows of a long list are drawn: those in sight and some around them, in nodes that are used again. */
const AROUND = 8;
const EIGHT = ~7;
/** Nodes; more rows than that never are in sight. */
const RING = 128;

export class RowWindow {
  top = $state(0);
  height = $state(600);
  /** Pixels of one row, as measured: whoever reads with large text has taller ones. */
  row = $state(37);

  constructor(private readonly count: () => number) {}

  from = $derived.by(() =>
    Math.min(
      Math.max(0, (Math.floor(this.top / this.row) - AROUND) & EIGHT),
      Math.max(0, this.count() - 1) & EIGHT
    )
  );
  to = $derived.by(() => {
    const last = Math.ceil((this.top + this.height) / this.row) + AROUND;
    return Math.min(this.count(), (last + 7) & EIGHT, this.from + RING);
  });
  before = $derived(this.from * this.row);
  after = $derived.by(() => (this.count() - this.to) * this.row);

  /** The node of a row: the same again a ring further on. */
  node(index: number): number {
    return index % RING;
  }

  /** Where to scroll so that a row is in sight; null where it is. */
  place(index: number): number | null {
    const head = this.row;
    const y = index * this.row;
    if (y < this.top) return y;
    if (y + this.row + head > this.top + this.height) return y + this.row + head - this.height;
    return null;
  }
}
