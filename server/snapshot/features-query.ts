/** The features of a collection that were made after a number, for COPY. */
export const featuresQuery = (collection: number, after: number): string =>
  `select f.image_id::int8, f.made::int8, f.features, f.measures from image_features f
    where f.collection_id = ${Number(collection)} and f.made > ${Number(after)} order by f.made`;
