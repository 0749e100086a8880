/** Which rows of a long list are drawn: those in sight and some around them, in nodes that are used again. */
const AROUND = 2;

export class RowWindow {
  top = $state(0);
  height = $state(600);
  /** Pixels of one row, as measured: whoever reads with large text has taller ones. */
  row = $state(37);

  constructor(private readonly count: () => number) {}

  /** As many as ever are in sight, with a page's edges; always the same number, so that no node is new. */
  readonly nodes = $derived.by(() =>
    Math.min(this.count(), (Math.ceil(this.height / this.row) + 2 * AROUND + 4) & ~3)
  );
  readonly from = $derived.by(() => {
    const first = (Math.floor(this.top / this.row) - AROUND) & ~3;
    return Math.max(0, Math.min(first, this.count() - this.nodes));
  });
  readonly to = $derived.by(() => this.from + this.nodes);
  readonly before = $derived.by(() => this.from * this.row);
  readonly after = $derived.by(() => (this.count() - this.to) * this.row);

  /** The node of a row: each row in sight has one of its own. */
  node(index: number): number {
    return index % this.nodes;
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
