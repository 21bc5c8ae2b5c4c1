"use client";
import type { Level, Sources } from "@larder/server/services/intake/sources";
import { useQuery } from "@tanstack/react-query";
import { CornerLeftUp, Folder } from "lucide-react";
import { useState } from "react";
import { api } from "@/features/live/api";
import { useSources } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { DialogCancel } from "@/ui/dialog";
import { SelectField } from "@/ui/field";
import { count } from "@/ui/words";
import type { Begin } from "./begin";

type Browsing = {
  places: string[];
  empty: string;
  label: string;
  level: (place: string, path: string) => string;
  begin: (place: string, path: string) => Promise<void>;
  busy: boolean;
};

/** Walks down folders of one of several places, and begins with the one that is open. */
function Walk({ places, empty, label, level, begin, busy }: Browsing) {
  const [place, setPlace] = useState(places[0] ?? "");
  const [path, setPath] = useState<string[]>([]);
  const address = level(place, path.join("/"));
  const { data, error } = useQuery({
    queryKey: ["still", address],
    enabled: place !== "",
    queryFn: ({ signal }) => api<Level>(address, { signal }),
  });
  if (places.length === 0) return <p className="text-ink-2">{empty}</p>;
  return (
    <>
      <SelectField
        label={label}
        value={place}
        options={places.map((entry) => ({ value: entry, label: entry }))}
        onChange={(next) => {
          setPlace(next);
          setPath([]);
        }}
      />
      <p className="mt-3 mb-1 truncate font-mono text-small text-ink-2" title={path.join("/")}>
        / {path.join(" / ")}
      </p>
      <div className="h-[220px] overflow-auto rounded-md border border-rule-strong">
        <ul>
          {path.length > 0 ? (
            <li>
              <button
                type="button"
                className="flex w-full items-center gap-2 px-3 py-1.5 text-left text-ink-2 hover:bg-well"
                onClick={() => setPath(path.slice(0, -1))}
              >
                <CornerLeftUp size={14} aria-hidden="true" /> up
              </button>
            </li>
          ) : null}
          {data?.folders.map((name) => (
            <li key={name}>
              <button
                type="button"
                className="flex w-full items-center gap-2 px-3 py-1.5 text-left hover:bg-well"
                onClick={() => setPath([...path, name])}
              >
                <Folder size={14} aria-hidden="true" className="text-ink-3" /> {name}
              </button>
            </li>
          ))}
        </ul>
        {error ? <p className="px-3 py-2 text-harm">{error.message}</p> : null}
        {data ? (
          <p className="px-3 py-2 text-small text-ink-3">
            {data.pictures + data.others === 0
              ? "No file lies here."
              : `${count(data.pictures, "picture")} and ${count(data.others, "other file")} lie here.`}
            {data.more ? " There are more folders than are shown." : ""}
          </p>
        ) : null}
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <DialogCancel />
        <Button look="go" disabled={busy || !data} onClick={() => void begin(place, path.join("/"))}>
          {busy ? "Reading …" : "Read this folder and all below"}
        </Button>
      </div>
    </>
  );
}

function WithSources({ children }: { children: (sources: Sources) => React.ReactNode }) {
  const { data, error } = useSources();
  if (error) return <p className="text-harm">{error.message}</p>;
  return data ? children(data) : null;
}

export function FromFolder({ begin, busy }: { begin: Begin; busy: boolean }) {
  return (
    <WithSources>
      {({ folders }) => (
        <Walk
          label="Root"
          places={folders}
          busy={busy}
          empty="No folder of the server may be read yet. Name the roots in LARDER_FOLDERS, separated by colons, and start Larder again."
          level={(root, path) =>
            `/api/sources/folder?root=${encodeURIComponent(root)}&path=${encodeURIComponent(path)}`
          }
          begin={(root, path) => begin({ kind: "folder", root, path })}
        />
      )}
    </WithSources>
  );
}

export function FromBucket({ begin, busy }: { begin: Begin; busy: boolean }) {
  return (
    <WithSources>
      {({ buckets }) => (
        <Walk
          label="Bucket"
          places={buckets}
          busy={busy}
          empty="No bucket is configured. Name them in LARDER_BUCKETS and start Larder again."
          level={(bucket, prefix) =>
            `/api/sources/bucket?bucket=${encodeURIComponent(bucket)}&prefix=${encodeURIComponent(prefix)}`
          }
          begin={(bucket, prefix) => begin({ kind: "bucket", bucket, prefix })}
        />
      )}
    </WithSources>
  );
}
