import type { Holdings } from "../splitting/deal";
import type { LightStock } from "../stock/light-stock";

/** What some of a stock's images hold, as dealing takes it. */
export function holdingsOf({ keys, names, starts, classOf }: LightStock, images: ArrayLike<number>): Holdings {
  const [begins, classes] = [starts.used, classOf.used];
  const held = { keys: new Array<string>(images.length), starts: new Uint32Array(images.length + 1) };
  for (let i = 0; i < images.length; i++) {
    const n = images[i] as number;
    held.keys[i] = keys[n] as string;
    held.starts[i + 1] = (held.starts[i] as number) + (begins[n + 1] as number) - (begins[n] as number);
  }
  const heldClasses = new Uint32Array(held.starts[images.length] as number);
  for (let i = 0; i < images.length; i++) {
    const n = images[i] as number;
    let to = held.starts[i] as number;
    for (let at = begins[n] as number; at < (begins[n + 1] as number); at++) heldClasses[to++] = classes[at] as number;
  }
  return { ...held, names, classOf: heldClasses };
}
