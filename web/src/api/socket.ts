/** The socket of an open part: requests with answers, binary content by digest, reconnecting by itself. */
import { begin } from './underway';
import { Refusal, type FromBrowser, type ToBrowser } from './types';

/**
 * again : an edit as it was sent, to be sent again when the line breaks before it is answered; the server
 * knows it by its key.
 */
type Waiting = { resolve: (m: ToBrowser) => void; reject: (r: Refusal) => void; again?: string };
type Told = (message: ToBrowser) => void;
type Numbered = Extract<FromBrowser, { id: number }>;
const PATIENCE = 30_000; // ms that an edit waits for a line that is broken
const EDITS = ['command', 'undo', 'redo'];
export type Request = Numbered extends infer M ? (M extends Numbered ? Omit<M, 'id' | 'key'> : never) : never;

export class Socket {
  /** Content by digest, as it came. */
  readonly content = new Map<string, ArrayBuffer>();
  private socket?: WebSocket;
  private waiting = new Map<number, Waiting>();
  private last = 0;
  private closed = false;
  private delay = 300;
  private giveUp = 0;

  constructor(
    private part: number,
    private told: Told,
    private linked: (up: boolean) => void,
    /** The version that is looked at as it was; 0: the part as it stands. */
    private version = 0,
  ) {
    this.connect();
  }

  private connect(): void {
    const socket = new WebSocket(
      `ws://${location.host}/api/parts/${this.part}/session?version=${this.version}`,
    );
    socket.binaryType = 'arraybuffer';
    socket.onopen = () => {
      this.delay = 300;
      this.linked(true);
      clearTimeout(this.giveUp);
      for (const w of this.waiting.values()) if (w.again) socket.send(w.again);
    };
    socket.onmessage = (event) => this.receive(event.data as string | ArrayBuffer);
    socket.onclose = (event) => {
      if (this.closed) return; // nothing waits any more, and nothing of the part need be held
      this.linked(false);
      this.reject((w) => !w.again, 'The line to Wendal broke before it answered. Try again.');
      clearTimeout(this.giveUp);
      this.giveUp = window.setTimeout(
        () =>
          this.reject(
            () => true,
            'The line to Wendal broke before it answered. Look whether the change is there, then try again.',
          ),
        PATIENCE,
      );
      if (!this.closed && event.code !== 4404)
        setTimeout(() => this.connect(), (this.delay = Math.min(this.delay * 1.6, 5000)));
    };
    this.socket = socket;
  }

  private reject(which: (w: Waiting) => boolean, words: string): void {
    for (const [id, w] of this.waiting) {
      if (!which(w)) continue;
      this.waiting.delete(id);
      w.reject(new Refusal(words));
    }
  }

  private receive(data: string | ArrayBuffer): void {
    if (typeof data !== 'string') {
      const size = new Uint8Array(data)[0];
      this.content.set(new TextDecoder().decode(new Uint8Array(data, 1, size)), data.slice(1 + size));
      return;
    }
    const message = JSON.parse(data) as ToBrowser;
    if (message.type === 'forget') {
      for (const digest of message.digests) this.content.delete(digest);
      return;
    }
    const id = 'id' in message ? message.id : 0;
    const waiting = this.waiting.get(id);
    if (waiting) {
      this.waiting.delete(id);
      if (message.type === 'refused') {
        waiting.reject(
          new Refusal(
            message.message,
            message.field,
            message.step,
            message.at,
            message.code,
            message.fights,
            message.spare,
          ),
        );
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
    const edit = EDITS.includes(request.type);
    const text = JSON.stringify(edit ? { ...request, id, key: crypto.randomUUID() } : { ...request, id });
    const end = begin();
    const answer = new Promise<ToBrowser>((resolve, reject) => {
      if (this.socket?.readyState !== WebSocket.OPEN) {
        reject(
          new Refusal(
            'There is no line to Wendal at the moment, so nothing was changed. It is tried again by itself.',
          ),
        );
        return;
      }
      this.waiting.set(id, { resolve, reject, again: edit ? text : undefined });
      this.socket.send(text);
    });
    return answer.finally(end);
  }

  /** Close for good. */
  close(): void {
    this.closed = true;
    this.socket?.close();
    this.reject(() => true, 'The part was closed.');
  }
}
