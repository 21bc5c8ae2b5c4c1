/** How trained models are measured. */

/** The first of these that a model has is what it is judged by. */
export const mainMeasures = ["mAP", "mAP 50", "F1", "accuracy", "IoU", "Dice", "recall", "precision"] as const;
