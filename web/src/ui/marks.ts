/** Each state of a step or a kept measure has a shape and a colour; its word stands beside it. */
const MARKS: Record<string, [string, string]> = {
  built: ['●', 'text-verdigris'],
  sound: ['●', 'text-verdigris'],
  held: ['◆', 'text-brass'],
  stopped: ['■', 'text-carmine'],
  lost: ['■', 'text-carmine'],
  outside: ['▲', 'text-carmine'],
  waiting: ['○', 'text-graphite'],
};

export const markOf = (state: string | undefined): [string, string] =>
  MARKS[state ?? 'waiting'] ?? MARKS.waiting;
