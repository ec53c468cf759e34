/** Whoever asks the server, and tells what goes wrong. */
import { untrack } from 'svelte';

export class Troubled {
  trouble = $state('');
  private working = $state(0);

  get busy(): boolean {
    return this.working > 0;
  }

  /** Do something that may be refused; the refusal's words become the trouble. */
  async doing<T>(work: () => Promise<T>): Promise<T | undefined> {
    this.trouble = '';
    untrack(() => this.working++); // whoever asks from an effect does not ask again because of it
    try {
      return await work();
    } catch (error) {
      this.trouble = error instanceof Error ? error.message : String(error);
      return undefined;
    } finally {
      this.working--;
    }
  }
}
