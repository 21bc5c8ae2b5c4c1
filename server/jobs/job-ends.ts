/** The ways a job comes to stand still that are no failure: thrown by what runs it, caught where it is released. */

/** Thrown by `progress` where somebody asked to stop. */
export class Stopped extends Error {}

/** Thrown by `progress` where somebody asked to pause: the job goes back and waits to be resumed. */
export class Paused extends Error {}

/** Thrown where another worker has taken the job over: this one has nothing to say any more. */
export class Lost extends Error {}
