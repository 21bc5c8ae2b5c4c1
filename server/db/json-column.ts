import { customType } from "drizzle-orm/pg-core";
import { storableJson } from "./storable";

/** A column of JSON whose texts may be anything: what PostgreSQL cannot keep of them is taken out on the way. */
export const jsonb = customType<{ data: unknown; driverData: unknown }>({
  dataType: () => "jsonb",
  toDriver: (value) => storableJson(JSON.stringify(value)),
  // The driver has parsed it already.
  fromDriver: (value) => value,
});
