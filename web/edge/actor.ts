import { localActor, type Actor } from "@larder/server/services/actor";

/** Who makes a request. There are no accounts yet: whoever reaches this installation is its one person. */
export function actorOf(_request: Request): Promise<Actor> {
  return Promise.resolve(localActor);
}
