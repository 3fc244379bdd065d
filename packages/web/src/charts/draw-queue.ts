type Job = () => void;

/**
 * Draws charts one a frame, so that a view of many does not hold up the page. A job that is asked for again while it
 * waits is done once, with what is then current.
 */
export class DrawQueue {
  private readonly jobs = new Map<object, Job>();
  private readonly nextFrame: (run: () => void) => void;
  private running = false;

  /** `nextFrame` runs something at the next frame. */
  constructor(nextFrame: (run: () => void) => void) {
    this.nextFrame = nextFrame;
  }

  /** Asks for a job in the name of its owner. */
  ask(owner: object, job: Job): void {
    this.jobs.set(owner, job);
    if (this.running) return;
    this.running = true;
    this.nextFrame(() => this.runOne());
  }

  /** Takes back what the owner asked for. */
  drop(owner: object): void {
    this.jobs.delete(owner);
  }

  private runOne(): void {
    const [next] = this.jobs;
    if (next === undefined) {
      this.running = false;
      return;
    }
    const [owner, job] = next;
    this.jobs.delete(owner);
    this.nextFrame(() => this.runOne());
    job();
  }
}

/** Of the whole page. */
export const drawQueue = new DrawQueue((run) => requestAnimationFrame(run));
