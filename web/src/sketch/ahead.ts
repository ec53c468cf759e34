/** What is typed for a field that is not there yet. */
import { OTHER } from '../state/action';

export class Ahead {
  private text: string | null = null; // null: no field is awaited
  private accepted = false;
  private turns = 0;

  /** A field is awaited. text : what was typed into the one that it takes the place of. */
  begin(text = ''): void {
    this.text ??= text;
  }

  /** A key beside all fields; tells whether it is meant for the field that is awaited. */
  takes(key: string): boolean {
    if (this.text === null || this.accepted) return false;
    if (key === OTHER) this.turns++;
    else if (key === 'Enter') this.accepted = true;
    else if (key === 'Escape') [this.text, this.accepted] = ['', true];
    else if (key === 'Backspace') this.text = this.text.slice(0, -1);
    else if (key.length === 1) this.text += key;
    else return false;
    return true;
  }

  /** Whether the other answer was asked for, once for each time that it was. */
  turned(): boolean {
    return this.turns > 0 && this.turns-- > 0;
  }

  /** The field is there, or never comes: what was typed for it, and whether it is accepted like that. */
  end(): { text: string; accepted: boolean } {
    const found = { text: this.text ?? '', accepted: this.accepted };
    [this.text, this.accepted, this.turns] = [null, false, 0];
    return found;
  }
}
