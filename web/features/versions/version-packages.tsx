"use client";
import type { PackFormat } from "@/features/formats/option-rows";
import type { VersionRow } from "@larder/server/services/versions";
import { useState } from "react";
import type { Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Menu, MenuItem } from "@/ui/menu";
import { PackDialog } from "./pack-dialog";
import { PackageRow } from "./package-row";

/** The packages of a frozen version, and the formats it can still be packed in. */
export function VersionPackages({ row, formats }: { row: Wire<VersionRow>; formats: readonly PackFormat[] }) {
  const [packing, setPacking] = useState<PackFormat | null>(null);
  const missing = formats.filter(
    ({ name }) => !row.packages.some((pack) => pack.format === name && pack.status !== "failed"),
  );
  return (
    <div>
      <ul aria-label="Packages">
        {row.packages.map((pack) => (
          <PackageRow key={pack.id} pack={pack} format={formats.find(({ name }) => name === pack.format)} />
        ))}
      </ul>
      {missing.length > 0 ? (
        <div className="mt-2">
          <Menu align="start" trigger={<Button small>Pack as …</Button>}>
            {missing.map((format) => (
              <MenuItem key={format.name} onSelect={() => setPacking(format)}>
                {format.name}
              </MenuItem>
            ))}
          </Menu>
          {packing && row.number ? (
            <PackDialog version={row.id} number={row.number} format={packing} close={() => setPacking(null)} />
          ) : null}
        </div>
      ) : null}
    </div>
  );
}
