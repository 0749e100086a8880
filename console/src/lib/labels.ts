/** On a phone each value of a table stands behind the name of its column, which is read from its head. */

function label(table: HTMLTableElement): void {
  const heads = [...(table.tHead?.rows[0]?.cells ?? [])].flatMap((th) =>
    Array<string>(th.colSpan).fill(th.innerText.replace(/[↑↓]/g, '').trim())
  );
  for (const row of [...table.tBodies].flatMap((body) => [...body.rows])) {
    let place = 0;
    for (const cell of row.cells) {
      const name = cell.colSpan === 1 ? heads[place] : undefined;
      if (name && cell.dataset.label !== name) cell.dataset.label = name;
      place += cell.colSpan;
    }
  }
}

/** Keep the tables within an element labelled for as long as it is there. */
export function labelled(root: HTMLElement): { destroy: () => void } {
  const all = (): void => root.querySelectorAll<HTMLTableElement>('table.list').forEach(label);
  const watch = new MutationObserver(all);
  const query = matchMedia('(max-width: 640px)');
  const look = (): void => {
    watch.disconnect();
    if (!query.matches) return;
    all();
    watch.observe(root, { childList: true, subtree: true });
  };
  query.addEventListener('change', look);
  look();
  return {
    destroy: () => {
      watch.disconnect();
      query.removeEventListener('change', look);
    }
  };
}
