import type { SKRSContext2D } from '@napi-rs/canvas';
import { ShaleError } from '@shale/core';
import { canvas, families } from './canvas.ts';

/** A picture of a contact sheet and what stands under it. */
export interface Cell {
  /** 8-bit RGBA, straight. */
  picture: { width: number; height: number; data: Uint8ClampedArray };
  name: string;
  line: string;
}

/** A contact sheet. */
export interface SheetLayout {
  kind: 'png' | 'pdf';
  columns: number;
  title: string;
  facts: string;
  /** Of a PDF: what stands on pages before the pictures, each with its label. */
  front?: [string, string][];
}

const ink = '#191b1a';
const soft = '#5c605c';
const paper = '#ffffff';

/** Sides of a page in points (ISO 216 A4, across), and of a picture in pixels, at the most. */
const page = { width: 842, height: 595 };
const longest = 16_000;

/** Measures that follow from the width: margins, a cell and its text. */
function measures(width: number, columns: number, aspect: number) {
  const margin = width * 0.035;
  const gap = width * 0.014;
  const cell = (width - 2 * margin - (columns - 1) * gap) / columns;
  const text = Math.max(5, Math.min(cell * 0.075, width * 0.0135));
  return { margin, gap, cell, text, picture: cell / aspect, row: cell / aspect + text * 3.4, head: text * 4.2 };
}

/** Points that labels of a front page take. */
const labelWidth = 170;

/** Lines of a front page. */
const linesPerPage = 26;

/** Labelled texts as lines that fit a page, page by page. */
function frontPages(
  front: [string, string][],
  size: number,
  context: SKRSContext2D,
): { label: string; text: string }[][] {
  context.font = `400 ${size}px "${families.text}"`;
  const room = page.width * 0.93 - labelWidth;
  const lines = front.flatMap(([label, text]) => {
    const own: string[] = [];
    let line = '';
    for (const word of text.split(' ')) {
      const longer = line === '' ? word : `${line} ${word}`;
      if (line !== '' && context.measureText(longer).width > room) {
        own.push(line);
        line = word;
      } else line = longer;
    }
    own.push(line);
    return own.map((one, at) => ({ label: at === 0 ? label : '', text: one }));
  });
  const pages: { label: string; text: string }[][] = [];
  for (let at = 0; at < lines.length; at += linesPerPage) pages.push(lines.slice(at, at + linesPerPage));
  return pages;
}

/** Pixels across that a cell's picture is drawn in. */
export const cellPixels = (columns: number): number => Math.round(Math.min(640, Math.max(160, 2000 / columns)));

/**
 * Draws pictures with their names and numbers: one tall PNG, or a PDF of as many pages as it takes, its text as text.
 * @throws ShaleError `sheet-too-long`
 */
export function drawSheet(cells: readonly Cell[], { kind, columns, title, facts, front = [] }: SheetLayout): Buffer {
  const { createCanvas, ImageData, PDFDocument } = canvas();
  const { width, height } = cells[0]!.picture;
  const aspect = width / height;
  const rows = Math.ceil(cells.length / columns);
  const across = kind === 'pdf' ? page.width : Math.round(cellPixels(columns) * columns * 1.12);
  const size = measures(across, columns, aspect);
  const drawHead = (context: SKRSContext2D, aside: string) => {
    context.textBaseline = 'alphabetic';
    context.fillStyle = ink;
    context.textAlign = 'left';
    context.font = `650 ${size.text * 1.7}px "${families.text}"`;
    context.fillText(title, size.margin, size.margin + size.text * 1.4, across * 0.6);
    context.fillStyle = soft;
    context.textAlign = 'right';
    context.font = `400 ${size.text}px "${families.text}"`;
    context.fillText(aside, across - size.margin, size.margin + size.text * 1.4, across * 0.36);
  };
  const drawCell = (context: SKRSContext2D, { picture, name, line }: Cell, column: number, y: number) => {
    const x = size.margin + column * (size.cell + size.gap);
    const drawn = createCanvas(picture.width, picture.height);
    drawn.getContext('2d').putImageData(new ImageData(picture.data, picture.width, picture.height), 0, 0);
    // What is clear lies on a light grey, so that the picture's edge is seen.
    context.fillStyle = '#e4e4e1';
    context.fillRect(x, y, size.cell, size.picture);
    const own = Math.min(size.cell / picture.width, size.picture / picture.height);
    const [w, h] = [picture.width * own, picture.height * own];
    context.drawImage(drawn, x + (size.cell - w) / 2, y + (size.picture - h) / 2, w, h);
    context.textAlign = 'left';
    context.fillStyle = ink;
    context.font = `600 ${size.text}px "${families.text}"`;
    const below = y + size.picture + size.text * 1.25;
    if (name) context.fillText(name, x, below, size.cell);
    context.fillStyle = name ? soft : ink;
    context.font = `400 ${size.text * 0.92}px "${families.numbers}"`;
    context.fillText(line, x, name ? below + size.text * 1.25 : below, size.cell);
  };
  const top = size.margin + size.head;
  if (kind === 'png') {
    const tall = Math.ceil(top + rows * size.row + size.margin);
    if (tall > longest)
      throw new ShaleError({
        code: 'sheet-too-long',
        fact: `The sheet would be ${tall} pixels tall.`,
        wayOut: 'Use fewer frames, more columns, or a PDF, which has pages.',
        subject: 'columns',
      });
    const drawing = createCanvas(across, tall);
    const context = drawing.getContext('2d');
    context.fillStyle = paper;
    context.fillRect(0, 0, across, tall);
    drawHead(context, facts);
    cells.forEach((cell, at) => drawCell(context, cell, at % columns, top + Math.floor(at / columns) * size.row));
    return drawing.toBuffer('image/png');
  }
  const perPage = Math.max(1, Math.floor((page.height - top - size.margin) / size.row)) * columns;
  const pages = Math.ceil(cells.length / perPage);
  const document = new PDFDocument({ title, creator: 'Shale' });
  for (const rows of frontPages(front, size.text, createCanvas(1, 1).getContext('2d'))) {
    const context = document.beginPage(page.width, page.height) as unknown as SKRSContext2D;
    drawHead(context, facts);
    rows.forEach(({ label, text }, at) => {
      const y = top + at * size.text * 1.6;
      context.textAlign = 'left';
      context.fillStyle = soft;
      context.font = `400 ${size.text}px "${families.text}"`;
      context.fillText(label, size.margin, y);
      context.fillStyle = ink;
      context.fillText(text, size.margin + labelWidth, y);
    });
    document.endPage();
  }
  for (let at = 0; at < pages; at += 1) {
    const context = document.beginPage(page.width, page.height) as unknown as SKRSContext2D;
    drawHead(context, pages > 1 ? `${facts}, page ${at + 1} of ${pages}` : facts);
    cells
      .slice(at * perPage, (at + 1) * perPage)
      .forEach((cell, index) => drawCell(context, cell, index % columns, top + Math.floor(index / columns) * size.row));
    document.endPage();
  }
  return document.close();
}
