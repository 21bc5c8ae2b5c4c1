"use client";
import type { LabelRequest } from "@larder/core/labels/request";
import type { ShownCutout } from "@larder/server/services/stock/cutouts";
import Link from "next/link";
import { useState } from "react";
import { useActs } from "@/features/acts/use-acts";
import { Button } from "@/ui/button";
import { Menu, MenuItem } from "@/ui/menu";
import { count } from "@/ui/words";
import type { Looks } from "../grid/cell";
import { LabelDialog } from "../tray/label-dialogs";
import { TrayBar } from "../tray/tray-bar";

/** A value as it was before it became the name of a group: yes and no, and numbers, stand as texts there. */
function typed(value: string): string | number | boolean {
  if (value === "true" || value === "false") return value === "true";
  return value.trim() !== "" && Number.isFinite(Number(value)) ? Number(value) : value;
}

/** What can be done to cut-outs that are picked: to the objects, or to the images where they are whole images. */
export function CutoutTray({
  collection,
  picked,
  looks,
  imageClass,
  attribute,
  onDone,
}: {
  collection: number;
  picked: readonly ShownCutout[];
  looks: Looks;
  /** The class that the images share, where cut-outs are whole images; else null. */
  imageClass: number | null;
  /** The attribute that the objects are grouped by, and the values it has elsewhere; null where they are not. */
  attribute: { name: string; values: readonly string[] } | null;
  onDone: () => void;
}) {
  const { act } = useActs(collection);
  const [tagging, setTagging] = useState(false);
  const images = [...new Set(picked.map(({ image }) => image))];
  const uids = picked.flatMap(({ uid }) => uid ?? []);
  const perform = (request: LabelRequest) =>
    act({ where: "", only: images, except: [] }, request, images.length).then(onDone);
  const whole = imageClass !== null;
  const what = whole ? count(images.length, "image") : count(picked.length, "object");
  const [only] = images;
  return (
    <TrayBar label="What is picked" many={what} onClear={onDone}>
      <Menu
        trigger={
          <Button look="dim" small>
            Give another class
          </Button>
        }
      >
        <div className="max-h-80 overflow-y-auto">
          {[...looks]
            .filter(([id]) => id !== imageClass)
            .map(([id, { name, colour }]) => (
              <MenuItem
                key={id}
                onSelect={() =>
                  void perform(
                    whole
                      ? { do: "replace-class", from: imageClass, into: id }
                      : { do: "reclass", objects: uids, class: id },
                  )
                }
              >
                <span className="size-2.5 rounded-sm" style={{ background: colour }} aria-hidden="true" />
                {name}
              </MenuItem>
            ))}
        </div>
      </Menu>
      <Button
        look="dim"
        small
        onClick={() =>
          void perform(whole ? { do: "remove-class", class: imageClass } : { do: "remove-objects", objects: uids })
        }
      >
        {whole ? "Take the class off" : picked.length === 1 ? "Remove it" : "Remove them"}
      </Button>
      {attribute ? (
        <Menu
          trigger={
            <Button look="dim" small>
              Set {attribute.name}
            </Button>
          }
        >
          <div className="max-h-80 overflow-y-auto">
            {attribute.values.map((value) => (
              <MenuItem
                key={value}
                onSelect={() =>
                  void perform({ do: "set-object-attribute", objects: uids, name: attribute.name, value: typed(value) })
                }
              >
                {value}
              </MenuItem>
            ))}
          </div>
        </Menu>
      ) : null}
      <Button look="dim" small onClick={() => setTagging(true)}>
        Tag their images
      </Button>
      {images.length === 1 ? (
        <Button look="dim" small asChild>
          <Link href={`/c/${collection}/bench/${only}${uids.length > 0 ? `?object=${uids.join(",")}` : ""}`}>
            Mend on the bench
          </Link>
        </Button>
      ) : null}
      {tagging ? (
        <LabelDialog
          asked="tag"
          many={count(images.length, "image")}
          collection={collection}
          onClose={() => setTagging(false)}
          onDo={(request) => {
            setTagging(false);
            void perform(request);
          }}
        />
      ) : null}
    </TrayBar>
  );
}
