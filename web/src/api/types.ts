// Short names for what the server's OpenAPI document describes.
import type { components } from './schema.gen';

type Schemas = components['schemas'];

export type Bench = Schemas['Bench'];
export type CheckedFigure = Schemas['CheckedFigure'];
export type DecayProfile = Schemas['DecayProfile'];
export type Drum = Schemas['Drum'];
export type DrumKind = Schemas['DrumKind'];
export type DrumState = Schemas['DrumState'];
export type DrumStanding = Schemas['DrumStanding'];
export type FileTake = Schemas['FileTake'];
export type Genre = Schemas['Genre'];
export type HeadSide = Schemas['HeadSide'];
export type KeptDrum = Schemas['KeptDrum'];
export type Kit = Schemas['Kit'];
export type ListenEvent = Schemas['ListenEvent'];
export type Outline = Schemas['Outline'];
export type Partial = Schemas['Partial'];
export type PlacedDevice = Schemas['PlacedDevice'];
export type Plans = Schemas['Plans'];
export type PlanView = Schemas['PlanView'];
export type Problem = Schemas['Problem'];
export type Range = Schemas['Range'];
export type ShelfDevice = Schemas['ShelfDevice'];
export type StrikeView = Schemas['StrikeView'];
export type TakeRow = Schemas['TakeRow'];
export type TakeView = Schemas['TakeView'];
export type Tonight = Schemas['KeptTonight'];
export type TreatmentView = Schemas['TreatmentView'];
export type Wanted = Schemas['Wanted'];
