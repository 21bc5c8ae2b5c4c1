/** Lines that fetch a package, compare its SHA-256 and unpack it: for a shell, for Python, for a notebook. */

export type Fetchable = {
  /** Where the package's bytes are. */
  address: string;
  fileName: string;
  /** Into which folder it is unpacked. */
  folder: string;
  sha256: string;
};

export type FetchKind = "shell" | "python" | "notebook";

const shellQuoted = (text: string) => `'${text.replace(/'/g, `'\\''`)}'`;

/** Each text runs as it is: Python with its own library alone, a broken download goes on where it was in the shell. */
export function fetchLines({ address, fileName, folder, sha256 }: Fetchable): Record<FetchKind, string> {
  const python = [
    "import hashlib, pathlib, urllib.request, zipfile",
    "",
    `name, folder = ${JSON.stringify(fileName)}, ${JSON.stringify(folder)}`,
    `urllib.request.urlretrieve(${JSON.stringify(address)}, name)`,
    "digest = hashlib.sha256()",
    'with open(name, "rb") as file:',
    '    for block in iter(lambda: file.read(1 << 20), b""):',
    "        digest.update(block)",
    `if digest.hexdigest() != ${JSON.stringify(sha256)}:`,
    '    raise SystemExit("the SHA-256 differs: fetch it again")',
    "zipfile.ZipFile(name).extractall(folder)",
  ];
  return {
    shell: [
      `curl -fL -C - -o ${shellQuoted(fileName)} ${shellQuoted(address)}`,
      `echo ${shellQuoted(`${sha256}  ${fileName}`)} | sha256sum -c -`,
      `python3 -m zipfile -e ${shellQuoted(fileName)} ${shellQuoted(folder)}`,
    ].join(" && "),
    python: python.join("\n"),
    notebook: [
      ...python,
      "",
      "images = [path for path in pathlib.Path(folder).rglob('*') if path.suffix.lower() in {'.jpg', '.jpeg', '.png', '.webp'}]",
      "print(len(images), 'images in', pathlib.Path(folder).resolve())",
      "images[:5]",
    ].join("\n"),
  };
}
