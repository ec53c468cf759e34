/** What the lines of the lists stand for, as things that can be picked: steps, whole sketches, bodies. */
import type { SceneBody, Step } from '../api/types';
import type { Thing } from '../stage/things';

export const stepThing = (step: Step): Thing => ({
  kind: 'step',
  key: `step:${step.id}`,
  words: `step ${step.name}`,
  facets: ['step'],
  ref: { of: 'step', step: step.id },
  step: step.id,
  depth: 0,
});

export const bodyThing = (body: SceneBody): Thing => ({
  kind: 'body',
  key: `body:${body.id}`,
  words: `body ${body.name}`,
  facets: ['body'],
  ref: { of: 'body', body: body.id },
  depth: 0,
});

export const sketchThing = (step: Step): Thing => ({
  kind: 'sketch',
  key: `sketch:${step.id}`,
  words: `all of ${step.name}`,
  facets: ['sketch'],
  ref: { of: 'sketch', step: step.id },
  step: step.id,
  depth: 0,
});
