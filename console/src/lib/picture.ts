/** What is drawn or listed on a page, to take along. */

const SHOWN = [
  'fill',
  'stroke',
  'stroke-width',
  'stroke-dasharray',
  'opacity',
  'font-size',
  'font-family'
];
const SCALE = 2;

function save(blob: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** A copy of a drawing that looks the same without the page's styles. */
function alone(drawing: SVGSVGElement): SVGSVGElement {
  const copy = drawing.cloneNode(true) as SVGSVGElement;
  const there = [drawing, ...drawing.querySelectorAll<SVGElement>('*')];
  [copy, ...copy.querySelectorAll<SVGElement>('*')].forEach((element, n) => {
    const style = getComputedStyle(there[n]!);
    for (const name of SHOWN) element.style.setProperty(name, style.getPropertyValue(name));
  });
  return copy;
}

/** A drawing as a PNG, twice as large as it is described, on the page's ground. */
export async function savePicture(drawing: SVGSVGElement, name: string): Promise<void> {
  const { width, height } = drawing.viewBox.baseVal;
  const copy = alone(drawing);
  copy.setAttribute('width', String(width));
  copy.setAttribute('height', String(height));
  const image = new Image();
  const text = new XMLSerializer().serializeToString(copy);
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = width * SCALE;
  canvas.height = height * SCALE;
  const context = canvas.getContext('2d')!;
  context.fillStyle = getComputedStyle(document.body).backgroundColor;
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
  if (blob) save(blob, name);
}

/** Numbers and days as CSV (RFC 4180); nothing in them is to be quoted. */
export function saveTable(
  head: string[],
  rows: ReadonlyArray<ReadonlyArray<number | string>>,
  name: string
): void {
  const text = [head, ...rows].map((row) => `${row.join(',')}\r\n`).join('');
  save(new Blob([text], { type: 'text/csv;charset=utf-8' }), name);
}
