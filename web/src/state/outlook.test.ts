import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { Outlook } from './outlook.svelte';

type Answer = (message: unknown) => void;
const COMMAND = () => ({}) as never;

/** A server that answers when it is told to. */
function slow() {
  const answers: Answer[] = [];
  const ask = () => new Promise<unknown>((answer) => answers.push(answer));
  return { answers, outlook: new Outlook({ socket: { ask } } as never) };
}

const said = (state: string, message: string) => ({
  type: 'preview',
  preview: { of: message },
  report: { state, message, field: '' },
});

/** Let what was resolved come through. */
const through = () => vi.advanceTimersByTimeAsync(0);

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal('document', { body: { dataset: {} } });
  vi.stubGlobal('window', globalThis);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

test.each([
  ['built', 'Adds 3 mm³.'],
  ['stopped', 'This adds nothing.'],
])(
  'an older answer (%s) shows its shape and says nothing while a change is not asked about yet',
  async (state, words) => {
    const { answers, outlook } = slow();
    outlook.ask(COMMAND, true);
    await vi.advanceTimersByTimeAsync(50);
    outlook.ask(COMMAND, true); // another choice, a moment later
    answers[0](said(state, words));
    await through();
    expect([outlook.waiting, outlook.trouble, outlook.report]).toEqual([true, null, null]);
    expect(outlook.preview).toEqual({ of: words });
    await vi.advanceTimersByTimeAsync(50);
    answers[1](said('built', 'Removes 5 mm³.'));
    await through();
    expect([outlook.waiting, outlook.trouble, outlook.report?.message]).toEqual([
      false,
      null,
      'Removes 5 mm³.',
    ]);
  },
);

test('an answer that comes behind that of a newer question counts no more', async () => {
  const { answers, outlook } = slow();
  outlook.ask(COMMAND, true);
  await vi.advanceTimersByTimeAsync(50);
  outlook.ask(COMMAND, true);
  await vi.advanceTimersByTimeAsync(50);
  answers[1](said('built', 'new'));
  await through();
  answers[0](said('stopped', 'old'));
  await through();
  expect([outlook.report?.message, outlook.trouble, outlook.waiting]).toEqual(['new', null, false]);
});

test('what was asked about and is given up leaves no word behind', async () => {
  const { answers, outlook } = slow();
  outlook.ask(COMMAND, true);
  await vi.advanceTimersByTimeAsync(50);
  outlook.clear();
  answers[0](said('stopped', 'too late'));
  await through();
  expect([outlook.preview, outlook.trouble, outlook.waiting]).toEqual([null, null, false]);
});
