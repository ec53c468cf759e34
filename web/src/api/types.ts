/** Short names for the generated types. */
import type { components } from './generated';

type Schemas = components['schemas'];

export type Part = Schemas['Part'];
export type Step = Part['steps'][number] & Record<string, unknown>;
export type FromBrowser = Schemas['Messages']['from_browser'];
export type ToBrowser = Schemas['Messages']['to_browser'];
export type Command = Schemas['DoCommand']['command'];
/** What stands, with the sketches as they were told by digest. */
export type Scene = Omit<Schemas['Scene'], 'sketches'> & { sketches: SceneSketch[] };
export type SceneBody = Schemas['SceneBody'];
export type SceneDatum = Schemas['SceneDatum'];
/** digest: of its content, where it has one. */
export type SceneSketch = Schemas['SceneSketch'] & { digest?: string };
export type SketchDrawn = Schemas['SketchDrawn'];
export type SketchRegion = Schemas['SketchRegion'];
export type SketchView = Schemas['SketchView'];
export type ConstraintRow = Schemas['ConstraintRow'];
export type Drawing = SketchView['drawing'];
export type StepState = Schemas['StepState'];
export type LedgerRow = Schemas['LedgerRow'];
export type BodyThings = Schemas['BodyThings'];
export type FrameData = Schemas['FrameData'];
export type PreviewShape = Schemas['PreviewShape'];
export type PartSummary = Schemas['PartSummary'];
export type Offer = Schemas['OfferData'];
export type Way = Schemas['WayData'];
export type Foreseen = Schemas['SayForeseen'];
export type Flat = [number, number];
export type Spot = [number, number, number];

export type Blank = {
  sort: 'name' | 'number' | 'pick' | 'choice' | 'answer' | 'facing' | 'words' | 'dots';
  label: string;
  when: Record<string, string[]>;
  before: string;
  after: string;
  default: unknown;
  accepts?: string[];
  /** What fits only while other fields have one of these values. */
  accepts_with?: Record<string, Record<string, string[]>>;
  needs?: string;
  many?: boolean;
  optional?: boolean;
  unless?: string;
  unsaid?: boolean;
  words?: Record<string, string>;
  start?: string;
  kind?: string;
  quiet?: boolean;
  /** What a choice adds as a clause of the sentence, that comes and goes as a whole. */
  clause?: string;
  /** The values that the other answer goes round. */
  turns?: string[];
  hint?: string;
};

export type Kind = {
  kind: string;
  title: string;
  group: string;
  key: string;
  explains: string;
  /** Offered after what is wanted more often. */
  rare: boolean;
  makes: string;
  /** Every way to make the step, by key ("" where there is just one). */
  variants: Record<string, Variant>;
};
export type Variant = { title: string; explains: string; sentence: string; blanks: Record<string, Blank> };

export type ConstraintKind = {
  kind: string;
  title: string;
  symbol: string;
  key: string;
  takes: string[][][];
  wants: string;
  quantity: string;
};

export type About = {
  version: string;
  kinds: Kind[];
  constraints: ConstraintKind[];
  formats: { ending: string; title: string }[];
  fonts: Record<string, string>;
};

/** Why a request was refused. Nothing was changed by it. */
export class Refusal extends Error {
  constructor(
    message: string,
    public field = '',
    public step = '',
    public at: number | null = null,
    public code = '',
    /** Constraints of the sketch that stand against what was wanted, newest first. */
    public fights: string[] = [],
    /** The dimension that was refused may be kept to tell its value. */
    public spare = false,
  ) {
    super(message);
  }
}
