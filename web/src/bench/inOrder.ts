/** What a hand does to a bench, as it is sent. */
export interface Done {
  do: string;
  n?: number;
  on?: boolean;
  value?: number;
  what?: string;
}

/** Acts whose newest value is all that counts. */
const moves = new Set(["analog", "speed"]);

interface Waiting {
  act: Done;
  heard: ((tick: number | null) => void)[];
}

/**
 * Sends acts one after the other, in the order of the hand: two on their way at once could overtake each other on a busy machine. A knob that is
 * moved on before its last place was sent is sent once. Each tells the tick of the bench by which it has acted, or null: it was not taken.
 */
export class InOrder {
  private waiting: Waiting[] = [];
  private going = false;

  constructor(
    private readonly send: (act: Done) => Promise<number>,
    private readonly failed: (e: unknown) => void,
  ) {}

  push(act: Done): Promise<number | null> {
    return new Promise((heard) => {
      const last = this.waiting.at(-1);
      if (last && moves.has(act.do) && last.act.do === act.do) {
        last.act = act;
        last.heard.push(heard);
      } else this.waiting.push({ act, heard: [heard] });
      void this.go();
    });
  }

  private async go() {
    if (this.going) return;
    this.going = true;
    for (let next = this.waiting.shift(); next; next = this.waiting.shift()) {
      let tick: number | null = null;
      try {
        tick = await this.send(next.act);
      } catch (e) {
        this.failed(e);
      }
      for (const f of next.heard) f(tick);
    }
    this.going = false;
  }
}
