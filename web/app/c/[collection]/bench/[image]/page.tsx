export const metadata = { title: "Bench" };

/** An image's place in the address; the bench that shows it stands in the layout above. */
export default function Page() {
  return null;
}
