"use client";
import { useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { usePlans } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count, dayAndTime } from "@/ui/words";
import { stepSummaries } from "./step-summaries";

/** The plans of a collection, each in one line of what it does. */
export function Plans({ collection }: { collection: number }) {
  const { data, error, refetch } = usePlans(collection);
  const router = useRouter();
  const client = useQueryClient();
  const make = async () => {
    try {
      const { id } = await api<{ id: number }>(`/api/collections/${collection}/plans`, { method: "POST", body: {} });
      await client.invalidateQueries({ queryKey: ["plans", collection] });
      router.push(`/c/${collection}/plans/${id}`);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const duplicate = async (id: number) => {
    try {
      const copy = await api<{ id: number }>(`/api/plans/${id}/duplicate`, { method: "POST", body: {} });
      await client.invalidateQueries({ queryKey: ["plans", collection] });
      router.push(`/c/${collection}/plans/${copy.id}`);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const remove = async (id: number, name: string) => {
    try {
      await api(`/api/plans/${id}`, { method: "DELETE" });
      await client.invalidateQueries();
      toast(`${name} is deleted. Versions built from it stay.`);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  if (error) return <Trouble error={error} again={() => void refetch()} />;
  if (!data) return <Loading what="the plans" />;
  const newPlan = (
    <Button look="go" onClick={() => void make()}>
      New plan
    </Button>
  );
  if (data.length === 0) {
    return (
      <Empty title="No plan yet" action={newPlan}>
        A plan says which images go into a data set, how they are split and what is done to them. Nothing is built until
        you say so.
      </Empty>
    );
  }
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead title="Plans" aside={count(data.length, "plan")}>
        {newPlan}
      </PageHead>
      <div className="px-5">
        <table className="ledger">
          <thead>
            <tr>
              <th>Plan</th>
              <th>What it does</th>
              <th>Edited</th>
              <th>Last built as</th>
              <th>
                <span className="sr-only">Actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {data.map((plan) => {
              const words = stepSummaries(plan.body);
              return (
                <tr key={plan.id}>
                  <td className="font-semibold">
                    <Link href={`/c/${collection}/plans/${plan.id}`} className="hover:underline">
                      {plan.name}
                    </Link>
                  </td>
                  <td className="text-ink-2">
                    {[words.relabel, words.split, words.prepare, words.augment, words.pack].join(" · ")}
                  </td>
                  <td className="text-ink-3">{dayAndTime(plan.updatedAt)}</td>
                  <td>
                    {plan.lastVersion ? (
                      <>
                        <Link
                          href={`/c/${collection}/versions/${plan.lastVersion.number}`}
                          className="underline-offset-2 hover:underline"
                        >
                          v{plan.lastVersion.number}
                        </Link>
                        {plan.lastVersion.changed.plan ? <span className="text-ink-3">, changed since</span> : null}
                      </>
                    ) : (
                      "not built"
                    )}
                  </td>
                  <td className="number">
                    <Button small look="quiet" onClick={() => void duplicate(plan.id)}>
                      Duplicate
                    </Button>
                    <Button small look="quiet" onClick={() => void remove(plan.id, plan.name)}>
                      Delete
                    </Button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </main>
  );
}
