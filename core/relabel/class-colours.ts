/** Colours that classes go by: twelve hues, each plain, darker and lighter. A class keeps its colour as a number from 0. */
export const classColourCount = 36;
