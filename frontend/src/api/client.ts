import createClient from "openapi-fetch";

import { bound } from "../shared/format";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Piece = Schemas["PieceShape"];
export type PieceSummary = Schemas["PieceSummary"];
/** What a cast sheet shows of its piece. */
export type SheetPiece = Schemas["SheetPiece"];
export type Survey = Schemas["Surveyed"];
/** The server fills in what is left out. */
export type SurveyWish = Required<Schemas["SurveyWish"]>;
export type Question = Schemas["Question"];
export type SurveyRequest = Schemas["SurveyRequest"];
export type Mark = Schemas["Mark"];
export type Job = Schemas["JobShape"];
export type Girth = Schemas["Girth"];
export type RimTest = Schemas["RimShape"];
export type Head = Schemas["Head"];
export type Station = Schemas["Station"];
export type Taping = Schemas["Taping"];
export type Silhouette = Schemas["Silhouette"];
export type UploadedFile = Schemas["UploadedFile"];
export type LengthUnit = Schemas["LengthUnit"];
export type Material = Schemas["MaterialShape"];
export type Castable = Schemas["Castable"];
export type ResinSheet = Schemas["ResinSheet"];
export type ResinValues = Schemas["ResinValues"];
export type Supply = Schemas["SupplyShape"];
export type Dab = Schemas["DabShape"];
export type Lot = Schemas["LotShape"];
export type ChainQuestion = Schemas["ChainQuestion"];
export type Chain = Schemas["Chain"];
export type Candidate = Schemas["Candidate"];
export type BuyList = Schemas["BuyList"];
export type BuyingQuestion = Schemas["BuyingQuestion"];
export type SheetValues = Schemas["NewSupply"]["sheet"];
export type Disagreement = Schemas["Disagreement"];
export type FormField = Schemas["FormField"];
export type Kit = Schemas["KitShape"];
export type Mould = Schemas["MouldShape"];
export type MouldSummary = Schemas["MouldSummary"];
export type MouldPlan = Schemas["PlannedMould"];
export type CutPattern = Schemas["CutPattern"];
export type PatternKind = Schemas["PatternKind"];
export type PatternMark = Schemas["PatternMark"];
export type DrawnSheet = Schemas["DrawnSheet"];
export type PlanQuestion = Schemas["MouldPlanQuestion"];
export type MouldEventKind = Schemas["MouldEventKind"];
export type MouldEstimate = Schemas["MouldEstimate"];
export type NewMould = Schemas["NewMould"];
/** The server fills in what the workshop has not said. */
export type Equipment = Required<Schemas["Equipment"]>;
export type PastePlace = Schemas["PastePlace"];
export type SoftPlace = Schemas["PatchShape"];
export type WallQuestion = Schemas["WallQuestion"];
export type WallRun = Schemas["RunShape"];
export type Try = Schemas["TryShape"];
export type NewTry = Schemas["NewTry"];
export type RollRequest = Schemas["RollRequest"];
export type Practised = Schemas["Practised"];
export type PatternTry = Schemas["PatternTry"];
export type WallTrial = Schemas["TrialShape"];
export type Today = Schemas["Today"];
export type TakenArchive = Schemas["TakenArchive"];
export type Worker = Schemas["WorkerShape"];
export type DayTask = Schemas["DayTask"];
export type NewDayJob = Schemas["NewDayJobBody"];
export type DayBoard = Schemas["Board"];
export type BoardTask = Schemas["BoardTask"];
export type Lane = Schemas["Lane"];
export type MovedTask = Schemas["MovedTask"];
export type Finish = Schemas["Finish"];
export type FinishStepState = Schemas["FinishStepState"];
/** The server fills in what is left out. */
export type FinishWish = Required<Schemas["FinishWish"]>;
export type Offer = Schemas["Offer"];
export type OfferWay = Schemas["OfferWay"];
export type OfferQuestion = Schemas["OfferQuestion"];
export type HowItWent = Schemas["HowItWent"];
export type TaskTick = Schemas["TaskTick"];
export type Cost = Schemas["Cost"];
export type CostLine = Schemas["CostLine"];
/** The server fills in what a kept wish of an earlier version does not say. */
export type Wish = Required<Schemas["CastWish"]>;
export type Cure = Schemas["CureReport"];
export type CureQuestion = Schemas["CureQuestion"];
export type Curve = Schemas["Curve"];
export type Limit = Schemas["Limit"];
export type CoatChoice = Schemas["CoatChoiceShape"];
export type Plan = Schemas["CastPlan"];
export type Coat = Schemas["CoatPlan"];
export type Amount = Schemas["Amount"];
export type Finding = Schemas["Finding"];
export type SentenceText = Schemas["Sentence"];
export type Stretch = Schemas["Stretch"];
export type CastSheet = Schemas["SheetShape"];
export type SheetSummary = Schemas["SheetSummary"];
export type SheetQuestion = Schemas["SheetRequest"];
export type Pour = Schemas["PourShape"];
export type PourSummary = Schemas["PourSummary"];
export type PouredCoat = Schemas["PouredCoatShape"];
export type FaultKind = Schemas["FaultKind"];
export type PourFault = Schemas["FaultShape"];
export type LikelyCause = Schemas["LikelyCauseShape"];
export type CastState = Schemas["CastState"];
export type Readings = Schemas["ReadingList"];
export type Reading = Schemas["ReadingShape"];
export type NewReading = Schemas["NewReadingBody"];
export type Picture = Schemas["PictureShape"];
export type Learned = Schemas["Learned"];
export type CastRun = Schemas["CastRunShape"];
export type CastCharts = Schemas["CastCharts"];
export type ControlChart = Schemas["ControlChart"];
export type MouldLife = Schemas["MouldLife"];
export type Beside = Schemas["BesideEachOther"];
export type Difference = Schemas["Difference"];
export type PourStep = Schemas["PourStep"];
export type Device = Schemas["DeviceShape"];
export type DeviceKind = Schemas["DeviceKind"];
export type Fault = Schemas["Fault"];
export type Workshop = Schemas["WorkshopShape"];
export type Access = Schemas["AccessShape"];
export type Right = Schemas["Right"];
export type Role = Schemas["Role"];
export type AccountList = Schemas["AccountList"];
export type NewInvitation = Schemas["NewInvitation"];
export type TrailLine = Schemas["TrailLine"];
export type Welcome = Schemas["WelcomeShape"];

/** An answer of the server that is not a success: a sentence, and the fields it is about. */
export class ProblemError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly fields: Readonly<Record<string, string>>,
    /** Every message, where several are about one field. */
    readonly lines: readonly string[] = [],
  ) {
    super(message);
  }
}

/** Tells the server that a change comes from a page of its own. */
const MARKER = { "X-Mild-Husk": "page" };

export const client = createClient<paths>({ baseUrl: "/", headers: MARKER });

const STRANGER = 401;

let arrivals = 0;
const greeting: (() => void)[] = [];

/** Somebody has come in: what was asked before and is refused now says nothing of them. */
export function hasComeIn() {
  arrivals += 1;
  for (const greets of greeting) greets();
}

/** Calls whenever the server wants to know first who asks, and when it knows. */
export function onStranger(hears: () => void, greets: () => void) {
  greeting.push(greets);
  const asked = new Map<string, number>();
  client.use({
    onRequest: ({ id }) => {
      asked.set(id, arrivals);
    },
    onResponse: ({ id, response }) => {
      if (response.status === STRANGER && asked.get(id) === arrivals) hears();
      asked.delete(id);
    },
    onError: ({ id }) => {
      asked.delete(id);
    },
  });
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** Returns the data of an answer, or throws its problem. */
export async function unwrap<T>(answer: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>;
  try {
    got = await answer;
  } catch {
    throw new ProblemError("The server does not answer. Is it still running?", 0, {});
  }
  if (got.data !== undefined) return got.data;
  throw toProblem(got.error, got.response.status);
}

function toProblem(body: unknown, status: number): ProblemError {
  const problem = body as { detail?: string; errors?: { field: string; message: string }[] } | null;
  const fields = (problem?.errors ?? []).map((one) => [one.field, one.message] as const);
  return new ProblemError(
    problem?.detail ?? `The server answered with an error (${status}).`,
    status,
    Object.fromEntries(fields),
    fields.map(([, message]) => message),
  );
}

/** The sentence of any failure. */
export function sentenceOf(error: unknown): string {
  return error instanceof Error ? bound(error.message) : "Something went wrong.";
}

/** The body of a form with one file; the generated type says string where a file is meant. */
export function fileBody(file: File, more: Readonly<Record<string, string>> = {}) {
  return {
    body: { file: file as unknown as string },
    bodySerializer: () => {
      const form = new FormData();
      form.append("file", file);
      for (const [name, value] of Object.entries(more)) form.append(name, value);
      return form;
    },
  };
}
