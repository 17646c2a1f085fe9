/** Hands something to the person as a file. */
function save(content: Blob, name: string): void {
  const url = URL.createObjectURL(content);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}

/** A table as CSV with a head, as spreadsheets read it (RFC 4180). */
export async function takeCsv(rows: readonly Readonly<Record<string, unknown>>[], name: string): Promise<void> {
  const { unparse } = await import('papaparse');
  const text = unparse(
    rows.map((row) => ({ ...row })),
    { escapeFormulae: true, newline: '\r\n' },
  );
  save(new Blob(['\uFEFF', text, '\r\n'], { type: 'text/csv;charset=utf-8' }), `${name}.csv`);
}

/** A picture as it stands on the page; letters in the font of whoever opens it. */
export function takeSvg(svg: string, name: string): void {
  save(new Blob([standing(svg)], { type: 'image/svg+xml' }), `${name}.svg`);
}

const SHARPER = 2;

/** The same as pixels, twice as sharp as on the page. */
export async function takePng(svg: string, name: string): Promise<void> {
  const picture = new Image();
  const url = URL.createObjectURL(new Blob([standing(svg)], { type: 'image/svg+xml' }));
  try {
    picture.src = url;
    await picture.decode();
    const canvas = document.createElement('canvas');
    canvas.width = picture.width * SHARPER;
    canvas.height = picture.height * SHARPER;
    const pen = canvas.getContext('2d')!;
    pen.fillStyle = '#FFFFFF';
    pen.fillRect(0, 0, canvas.width, canvas.height);
    pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
    const png = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
    if (png) save(png, `${name}.png`);
  } finally {
    URL.revokeObjectURL(url);
  }
}

/** A picture that stands by itself: with its namespace and a font. */
function standing(svg: string): string {
  const named = svg.includes('xmlns=') ? svg : svg.replace('<svg', '<svg xmlns="http://www.w3.org/2000/svg"');
  return named.replace('font-family="inherit"', 'font-family="Archivo, system-ui, sans-serif"');
}
