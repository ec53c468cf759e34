/** The socket of an open part: requests with answers, binary content by digest, reconnecting by itself. */
import { Refusal, type FromBrowser, type ToBrowser } from './types';

type Waiting = { resolve: (m: ToBrowser) => void; reject: (r: Refusal) => void };
type Told = (message: ToBrowser) => void;
type Numbered = Extract<FromBrowser, { id: number }>;
export type Request = Numbered extends infer M ? (M extends Numbered ? Omit<M, 'id'> : never) : never;

export class Socket {
  /** Content by digest, as it came. */
  readonly content = new Map<string, ArrayBuffer>();
  private socket?: WebSocket;
  private waiting = new Map<number, Waiting>();
  private last = 0;
  private closed = false;
  private delay = 300;

  constructor(
    private part: number,
    private told: Told,
    private linked: (up: boolean) => void,
  ) {
    this.connect();
  }

  private connect(): void {
    const socket = new WebSocket(`ws://${location.host}/api/parts/${this.part}/session`);
    socket.binaryType = 'arraybuffer';
    socket.onopen = () => {
      this.delay = 300;
      this.linked(true);
    };
    socket.onmessage = (event) => this.receive(event.data as string | ArrayBuffer);
    socket.onclose = (event) => {
      this.linked(false);
      for (const w of this.waiting.values()) {
        w.reject(new Refusal('The line to Wendal broke before it answered. Look whether the change is there, then try again.'));
      }
      this.waiting.clear();
      if (!this.closed && event.code !== 4404) setTimeout(() => this.connect(), (this.delay = Math.min(this.delay * 1.6, 5000)));
    };
    this.socket = socket;
  }

  private receive(data: string | ArrayBuffer): void {
    if (typeof data !== 'string') {
      const size = new Uint8Array(data)[0];
      this.content.set(new TextDecoder().decode(new Uint8Array(data, 1, size)), data.slice(1 + size));
      return;
    }
    const message = JSON.parse(data) as ToBrowser;
    const id = 'id' in message ? message.id : 0;
    const waiting = this.waiting.get(id);
    if (waiting) {
      this.waiting.delete(id);
      if (message.type === 'refused') {
        waiting.reject(new Refusal(message.message, message.field, message.step, message.at, message.code, message.fights, message.spare));
      } else waiting.resolve(message);
      return;
    }
    this.told(message);
  }

  /** Send a message that has no answer. */
  say(message: Exclude<FromBrowser, Numbered>): void {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message));
  }

  /** Send a request and wait for its answer; a refusal is thrown. */
  ask(request: Request): Promise<ToBrowser> {
    const id = ++this.last;
    return new Promise((resolve, reject) => {
      if (this.socket?.readyState !== WebSocket.OPEN) {
        reject(new Refusal('There is no line to Wendal at the moment, so nothing was changed. It is tried again by itself.'));
        return;
      }
      this.waiting.set(id, { resolve, reject });
      this.socket.send(JSON.stringify({ ...request, id }));
    });
  }

  /** Close for good. */
  close(): void {
    this.closed = true;
    this.socket?.close();
  }
}
