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
export type KeptView = Schemas['KeptView'];
export type KeptSection = Schemas['KeptSection'];
export type KeptData = Schemas['KeptData'];
export type LedgerRow = Schemas['LedgerRow'];
export type BodyThings = Schemas['BodyThings'];
export type FrameData = Schemas['FrameData'];
export type PreviewShape = Schemas['PreviewShape'];
export type PartSummary = Schemas['PartSummary'];
export type Measured = Schemas['Measured'];
export type WhatMoves = Schemas['SayMoved'];
export type AimedAt = Schemas['SayAimed'];
export type Shaken = Schemas['SayShaken'];
export type SampledSets = Schemas['SaySampled'];
export type FamilyTold = Schemas['SayFamily'];
export type TriedOn = Schemas['SayTriedOn'];
export type DimensionFound = Schemas['DimensionFound'];
export type WallsFound = Schemas['WallsFound'];
export type HolesListed = Schemas['HolesListed'];
export type MassesAndSizes = Schemas['MassesAndSizes'];
export type BodyMass = Schemas['BodyMass'];
export type VersionsOfPart = Schemas['VersionsOfPart'];
export type VersionSummary = Schemas['VersionSummary'];
export type Compared = Schemas['SayCompared'];
export type TogetherTold = Schemas['TogetherTold'];
export type CurvesReceived = Schemas['CurvesReceived'];
export type FileReceived = Schemas['FileReceived'];
export type PageData = Schemas['Page'];
export type PageDrawn = Schemas['PageDrawn'];
export type OnPage = Schemas['OnPage'];
export type MadeBy = Schemas['MadeBy'];
export type HandbookPage = Schemas['HandbookPage'];
export type Offer = Schemas['OfferData'];
export type Way = Schemas['WayData'];
export type Foreseen = Schemas['SayForeseen'];
export type Flat = [number, number];
export type Spot = [number, number, number];

export type Blank = Schemas['BlankData'];
export type Kind = Schemas['KindData'];
export type Variant = Schemas['VariantData'];
export type ConstraintKind = Schemas['ConstraintKindData'];
export type About = Schemas['About'];

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
