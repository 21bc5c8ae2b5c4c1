"use client";
/** What pages ask the server for, by name. */
import type { ClassRow } from "@larder/server/services/classes";
import type { Bin } from "@larder/server/services/bin";
import type { Stocktake } from "@larder/server/services/checks/stocktake";
import type { CollectionHead, Shelf } from "@larder/server/services/collections";
import type { Delivery } from "@larder/server/db/schema";
import type { SheetNumbers } from "@larder/server/services/intake/sheet-numbers";
import type { Sources } from "@larder/server/services/intake/sources";
import type { PlanRow } from "@larder/server/services/plans";
import type { VersionRow } from "@larder/server/services/versions";
import type { Job } from "@larder/server/jobs/queue";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { scopeParameters, type CheckScope } from "@/features/checks/scope";
import { api } from "./api";

/** A row as JSON brings it: dates are texts. */
export type Wire<T> = T extends Date
  ? string
  : T extends readonly unknown[]
    ? { [K in keyof T]: Wire<T[K]> }
    : T extends object
      ? { [K in keyof T]: Wire<T[K]> }
      : T;

export const useShelves = () =>
  useQuery({ queryKey: ["shelves"], queryFn: ({ signal }) => api<Shelf[]>("/api/collections", { signal }) });
export const useCollection = (id: number | null) =>
  useQuery({
    queryKey: ["collection", id],
    enabled: id !== null,
    queryFn: ({ signal }) => api<CollectionHead>(`/api/collections/${id}`, { signal }),
  });
export const useDeliveries = (id: number) =>
  useQuery({
    queryKey: ["deliveries", id],
    queryFn: ({ signal }) => api<Wire<Delivery>[]>(`/api/collections/${id}/deliveries`, { signal }),
  });
export const useDelivery = (id: number) =>
  useQuery({
    queryKey: ["delivery", id],
    queryFn: ({ signal }) => api<Wire<Delivery>>(`/api/deliveries/${id}`, { signal }),
  });
export const useClasses = (id: number) =>
  useQuery({
    queryKey: ["classes", id],
    enabled: id > 0,
    queryFn: ({ signal }) => api<ClassRow[]>(`/api/collections/${id}/classes`, { signal }),
  });
export const useChecks = (id: number, scope: CheckScope = { where: "" }) =>
  useQuery({
    queryKey: ["checks", id, scope],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      api<Wire<Stocktake>>(`/api/collections/${id}/checks?${scopeParameters(scope)}`, { signal }),
  });
export const usePlans = (id: number) =>
  useQuery({
    queryKey: ["plans", id],
    queryFn: ({ signal }) => api<Wire<PlanRow>[]>(`/api/collections/${id}/plans`, { signal }),
  });
export const useVersions = (id: number) =>
  useQuery({
    queryKey: ["versions", id],
    queryFn: ({ signal }) => api<Wire<VersionRow>[]>(`/api/collections/${id}/versions`, { signal }),
  });
export const useExports = (id: number) =>
  useQuery({
    queryKey: ["versions", id, "exports"],
    queryFn: ({ signal }) => api<Wire<VersionRow>[]>(`/api/collections/${id}/exports`, { signal }),
  });
export const useSheetNumbers = (id: number, enabled: boolean) =>
  useQuery({
    queryKey: ["delivery", id, "numbers"],
    enabled,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => api<SheetNumbers>(`/api/deliveries/${id}/numbers`, { signal }),
  });
export const useSources = () =>
  useQuery({ queryKey: ["still", "sources"], queryFn: ({ signal }) => api<Sources>("/api/sources", { signal }) });
export const useBin = (id: number) =>
  useQuery({ queryKey: ["bin", id], queryFn: ({ signal }) => api<Bin>(`/api/collections/${id}/bin`, { signal }) });
export const useJobs = () =>
  useQuery({
    queryKey: ["jobs"],
    queryFn: ({ signal }) => api<Wire<Job>[]>("/api/jobs", { signal }),
    placeholderData: keepPreviousData,
  });
