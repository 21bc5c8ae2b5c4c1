/** Delivery slips of Millrace Bakery: one PDF, a page a slip, printed as text that can be read back. */
import { PDFDocument, StandardFonts, rgb } from "pdf-lib";
import { Draws } from "./random";

const shops = ["Corner Larch", "Harbour Stall", "Mill Lane 4", "Station Kiosk", "Old Weir Inn", "Quarry Canteen"];
const goods = ["loaf", "roll", "croissant", "pretzel", "baguette", "tart"];
const page = { width: 420, height: 298 };

export type Slip = { number: string; shop: string; lines: { good: string; count: number }[] };

/** `count` slips; the same seed gives the same ones. */
export function makeSlips(seed: number, count: number): Slip[] {
  return Array.from({ length: count }, (_, index) => {
    const draws = new Draws(seed + index, "slip");
    return {
      number: `MB-${4100 + index}`,
      shop: shops[draws.whole(0, shops.length - 1)] ?? "Corner Larch",
      lines: goods.filter(() => draws.chance(0.55)).map((good) => ({ good, count: draws.whole(2, 60) })),
    };
  });
}

/** The slips as a PDF, a page each; the same slips give the same bytes. */
export async function slipsPdf(slips: readonly Slip[]): Promise<Uint8Array> {
  const pdf = await PDFDocument.create({ updateMetadata: false });
  const written = new Date("2026-11-02T06:00:00Z");
  pdf.setTitle("Delivery slips, Millrace Bakery");
  pdf.setCreationDate(written);
  pdf.setModificationDate(written);
  const plain = await pdf.embedFont(StandardFonts.Helvetica);
  const bold = await pdf.embedFont(StandardFonts.HelveticaBold);
  const ink = rgb(0.13, 0.2, 0.17);
  for (const slip of slips) {
    const sheet = pdf.addPage([page.width, page.height]);
    const write = (text: string, x: number, y: number, size = 12, font = plain) =>
      sheet.drawText(text, { x, y, size, font, color: ink });
    write("Millrace Bakery", 32, 252, 20, bold);
    write("Delivery slip", 32, 232);
    write(slip.number, 300, 252, 16, bold);
    write("To", 32, 200, 10);
    write(slip.shop, 80, 200, 13, bold);
    sheet.drawLine({ start: { x: 32, y: 186 }, end: { x: 388, y: 186 }, thickness: 0.7, color: ink });
    slip.lines.forEach(({ good, count }, row) => {
      write(good, 32, 164 - row * 20);
      write(String(count), 340, 164 - row * 20);
    });
  }
  return pdf.save({ useObjectStreams: false });
}
