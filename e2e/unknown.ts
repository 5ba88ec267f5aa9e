import { createServer, type Server, type Socket } from "node:net";

/**
 * A drive of no known family at a loopback address (MODBUS Application Protocol Specification V1.1b3): some registers answer, its gaps are
 * refused, some move by themselves, and what is written is counted and refused. It says of itself that it is a stand-in.
 */
export class Unknown {
  regs = new Map<number, number>();
  writes = 0;
  address = "";
  private moving = [110, 1040];
  private server: Server;
  private sockets = new Set<Socket>();
  constructor() {
    for (const [from, to] of [
      [100, 159],
      [300, 320],
      [1000, 1063],
    ] as const)
      for (let a = from; a <= to; a++) this.regs.set(a, a % 90);
    this.regs.set(1010, 0);
    this.regs.set(1011, 0);
    this.server = createServer((s) => {
      this.sockets.add(s);
      s.on("error", () => {});
      s.on("data", (d) => s.write(this.answer(d)));
    });
  }
  async start(): Promise<this> {
    await new Promise<void>((done) => this.server.listen(0, "127.0.0.1", done));
    this.address = `127.0.0.1:${(this.server.address() as { port: number }).port}`;
    return this;
  }
  stop() {
    for (const s of this.sockets) s.destroy();
    this.server.close();
  }
  private answer(frame: Buffer): Buffer {
    const fn = frame[7]!;
    const pdu = this.pdu(fn, frame);
    const head = Buffer.from(frame.subarray(0, 7));
    head.writeUInt16BE(pdu.length + 1, 4);
    return Buffer.concat([head, pdu]);
  }
  private pdu(fn: number, frame: Buffer): Buffer {
    if (fn === 0x2b) {
      const says = ["Tin Gate", "SIMULATED stand-in", "1"].map((t) => Buffer.from(t));
      return Buffer.concat([
        Buffer.from([0x2b, 0x0e, 1, 1, 0, 0, says.length]),
        ...says.flatMap((t, i) => [Buffer.from([i, t.length]), t]),
      ]);
    }
    if (fn !== 3) {
      if (fn === 6 || fn === 16) this.writes++;
      return Buffer.from([fn | 0x80, 1]);
    }
    const [at, n] = [frame.readUInt16BE(8), frame.readUInt16BE(10)];
    if (n > 32) return Buffer.from([0x83, 3]);
    for (const m of this.moving) this.regs.set(m, (this.regs.get(m)! + 13) % 65536);
    const out = Buffer.alloc(2 + 2 * n);
    out.writeUInt8(3, 0);
    out.writeUInt8(2 * n, 1);
    for (let i = 0; i < n; i++) {
      const v = this.regs.get(at + i);
      if (v === undefined) return Buffer.from([0x83, 2]);
      out.writeUInt16BE(v, 2 + 2 * i);
    }
    return out;
  }
}
