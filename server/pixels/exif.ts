import exifr from "exifr";

/** When a picture was taken, as its camera's clock showed (no time zone), and where, in decimal degrees, WGS 84. */
export type WhenAndWhere = { takenAt: string | null; latitude: number | null; longitude: number | null };

/** `orientation` is the camera's flag, 1…8; 1, which turns nothing, where none is set. */
export type Exif = WhenAndWhere & { orientation: number };

export const nowhere: WhenAndWhere = { takenAt: null, latitude: null, longitude: null };
export const noExif: Exif = { orientation: 1, ...nowhere };

/** One object for all calls: the library keeps what it makes of each for good. */
const wanted = {
  tiff: true,
  exif: true,
  gps: true,
  xmp: false,
  icc: false,
  iptc: false,
  jfif: false,
  ihdr: false,
  interop: false,
  reviveValues: false,
  translateValues: false,
  pick: [
    "Orientation",
    "DateTimeOriginal",
    "CreateDate",
    "GPSLatitude",
    "GPSLongitude",
    "GPSLatitudeRef",
    "GPSLongitudeRef",
  ],
};

/** EXIF writes "2026:11:19 14:03:22"; a clock that was never set says zeros. */
function isoTime(tags: unknown): string | null {
  const match = /^(\d{4})[:-](\d\d)[:-](\d\d)[ T](\d\d):(\d\d):(\d\d)/.exec(typeof tags === "string" ? tags : "");
  if (!match) return null;
  const [, year, month, day, hour, minute, second] = match;
  const iso = `${year}-${month}-${day}T${hour}:${minute}:${second}`;
  const time = new Date(`${iso}Z`);
  return Number.isNaN(time.getTime()) || !time.toISOString().startsWith(iso) || Number(year) < 1826 ? null : iso;
}

/** Reads EXIF (CIPA DC-008) where there is any; what is broken is taken for nothing. */
export async function readExif(bytes: Uint8Array): Promise<Exif> {
  try {
    const tags = (await exifr.parse(bytes, wanted)) as Record<string, unknown> | undefined;
    if (!tags) return noExif;
    const degrees = (value: unknown, most: number) =>
      typeof value === "number" && Number.isFinite(value) && Math.abs(value) <= most ? value : null;
    const latitude = degrees(tags["latitude"], 90);
    const longitude = degrees(tags["longitude"], 180);
    const placed = latitude !== null && longitude !== null && !(latitude === 0 && longitude === 0);
    const flag = tags["Orientation"];
    const orientation = typeof flag === "number" && Number.isInteger(flag) && flag >= 1 && flag <= 8 ? flag : 1;
    return {
      orientation,
      takenAt: isoTime(tags["DateTimeOriginal"] ?? tags["CreateDate"]),
      latitude: placed ? latitude : null,
      longitude: placed ? longitude : null,
    };
  } catch {
    return noExif;
  }
}
