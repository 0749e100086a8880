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

/** Measure a row once rows are there, and when the text is another size; not with each that comes into sight. */
export function measured(node: HTMLElement, rows: () => RowWindow | null): void {
  $effect(() => {
    const window = rows();
    if (!window) return;
    const look = (): void => {
      const first = node.querySelector('tbody tr:not([aria-hidden])');
      if (first) window.row = first.getBoundingClientRect().height;
    };
    look();
    addEventListener('resize', look);
    return () => removeEventListener('resize', look);
  });
}

const STEPS: Record<string, (here: number, page: number, last: number) => number> = {
  j: (here) => here + 1,
  ArrowDown: (here) => here + 1,
  k: (here) => here - 1,
  ArrowUp: (here) => here - 1,
  PageDown: (here, page) => here + page,
  PageUp: (here, page) => here - page,
  Home: () => 0,
  End: (_here, _page, last) => last
};

/** Going through rows by keys. */
export class RowKeys {
  here = $state(0);

  constructor(private readonly count: () => number) {}

  /** Whether a key is meant for the rows, and not for what stands in them. */
  free(event: KeyboardEvent): boolean {
    const target = event.target as HTMLElement;
    return !(event.metaKey || event.ctrlKey || event.altKey || target.closest('button, select'));
  }

  /** Go where a key leads; whether it leads anywhere. */
  move(event: KeyboardEvent, page: number): boolean {
    const step = this.free(event) && STEPS[event.key];
    if (!step) return false;
    event.preventDefault();
    event.stopPropagation();
    const last = this.count() - 1;
    this.here = Math.max(0, Math.min(last, step(this.here, page, last)));
    return true;
  }

  /** Whether the row in focus is not drawn any more. */
  leaves(box: HTMLElement, [from, to]: [number, number]): boolean {
    const row = box.contains(document.activeElement) && document.activeElement?.closest('tr');
    return !!row && (this.here < from || this.here >= to);
  }

  /** Give the focus to where one is; a long list has scrolled there already. */
  focus(box: HTMLElement, long: boolean): void {
    const link = `tr[aria-rowindex="${this.here + 2}"] a`;
    box.querySelector<HTMLElement>(link)?.focus({ preventScroll: long });
  }
}
