/** A worker that holds OpenCV and looks for outlines; compiled by itself, since OpenCV makes code as it starts. */
import { cutThing, startedOpenCv, type CutRequest } from "@larder/core/editing/grab-cut";
import openCv from "@techstark/opencv-js";

export type ProposeRequest = CutRequest & { id: number };
export type ProposeAnswer = { id: number } & ({ pixels: Uint8Array } | { trouble: string });

const started = startedOpenCv(openCv);

self.onmessage = async ({ data }: MessageEvent<ProposeRequest>) => {
  let answer: ProposeAnswer;
  try {
    answer = { id: data.id, pixels: cutThing((await started).cv, data) };
  } catch (error) {
    answer = { id: data.id, trouble: error instanceof Error ? error.message : "OpenCV could not do it" };
  }
  self.postMessage(answer);
};
