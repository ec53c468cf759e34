/** What an action is: its words, its keys, and what it does. */

/** The key of its own for the other answer: no browser takes it, no formula has it. */
export const OTHER = ';';

export type Action = {
  group: 'datum' | 'sketch' | 'constrain' | 'build' | 'look' | 'route' | 'drawing';
  key: string;
  title: string;
  explains: string;
  run: () => void;
  /** Why it can not be done now, or "". */
  barred?: () => string;
  /**
   * For what stands in the rail of the drawing board: its group there, the tool that it takes in hand, and a
   * short title where the own one is long.
   */
  /** Its shelf in the kit. */
  shelf?: string;
  rail?: 'Draw' | 'Change' | 'Take in' | 'Constrain';
  tool?: string;
  short?: string;
  /**
   * A step kind that it begins, a constraint kind ("dimension" for all dimensions), a view of what is picked:
   * what offers call it by.
   */
  kind?: string;
  constraint?: string;
  view?: 'square' | 'hide' | 'work in';
};
