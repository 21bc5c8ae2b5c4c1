import { sql } from "drizzle-orm";
import { db } from "../db/database";
import type { Actor } from "./actor";

export type Destination = {
  kind: "collection" | "delivery" | "plan" | "version" | "class" | "image";
  name: string;
  where: string;
  href: string;
};

/** Everything whose name holds `text`, a few of each kind. */
export async function goTo(_actor: Actor, text: string): Promise<Destination[]> {
  const pattern = `%${text.trim().replace(/[\\%_]/g, "\\$&")}%`;
  const { rows } = await db().execute<Destination>(sql`
    (select 'collection' as kind, c.name, '' as where, '/c/' || c.id || '/stock' as href from collections c where c.name ilike ${pattern} order by c.name limit 8)
    union all (select 'plan', p.name, c.name, '/c/' || c.id || '/plans/' || p.id from plans p join collections c on c.id = p.collection_id where p.name ilike ${pattern} order by p.id desc limit 5)
    union all (select 'version', 'v' || v.number || ' ' || v.name, c.name, '/c/' || c.id || '/versions' from versions v join collections c on c.id = v.collection_id where v.number is not null and 'v' || v.number || ' ' || v.name ilike ${pattern} order by v.id desc limit 5)
    union all (select 'delivery', d.name, c.name, '/c/' || c.id || '/deliveries/' || d.id from deliveries d join collections c on c.id = d.collection_id where d.name ilike ${pattern} order by d.id desc limit 5)
    union all (select 'class', k.name, c.name, '/c/' || c.id || '/stock?class=' || replace(k.name, ' ', '%20') from classes k join collections c on c.id = k.collection_id where k.name ilike ${pattern} order by k.position limit 6)
    union all (select 'image', i.name, c.name, '/c/' || c.id || '/stock/' || i.id from images i join collections c on c.id = i.collection_id where ${text.trim().length >= 2} and i.name ilike ${pattern} order by i.id limit 6)`);
  return rows;
}
