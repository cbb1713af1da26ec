import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Piece = Schemas["PieceShape"];
export type Survey = NonNullable<Piece["survey"]>;
export type SurveyAsked = Schemas["SurveyAsked"];
export type Mark = NonNullable<SurveyAsked["marks"]>[number];
export type Job = Schemas["JobShape"];
export type Girth = Schemas["GirthShape"];
export type RimTest = Schemas["RimShape"];
export type Head = Schemas["HeadShape"];
export type Station = Schemas["StationShape"];
export type Taping = Schemas["TapingShape"];
export type Silhouette = Schemas["SilhouetteShape"];
export type UploadedFile = Schemas["UploadedFile"];
export type LengthUnit = Schemas["LengthUnit"];
export type Material = Schemas["MaterialShape"];
export type ResinSheet = Schemas["ResinSheet"];
export type ResinValues = Schemas["ResinValues"];
export type Supply = Schemas["SupplyShape"];
export type Dab = Schemas["DabShape"];
export type Lot = Schemas["LotShape"];
export type ChainQuestion = Schemas["ChainQuestion"];
export type Chain = Schemas["ChainShape"];
export type Candidate = Schemas["CandidateShape"];
export type BuyList = Schemas["BuyList"];
export type BuyingQuestion = Schemas["BuyingQuestion"];
export type SheetValues = Schemas["NewSupply"]["sheet"];
export type School = Schemas["SchoolShape"];
export type FormField = Schemas["FormFieldShape"];
export type Kit = Schemas["KitShape"];
export type Mould = Schemas["MouldShape"];
export type MouldPlan = Schemas["MouldPlanShape"];
export type PlanQuestion = Schemas["MouldPlanQuestion"];
export type MouldEventKind = Schemas["MouldEventKind"];
export type MouldTakes = Schemas["TakesShape"];
export type NewMould = Schemas["NewMould"];
export type Equipment = Schemas["EquipmentShape"];
export type PastePlace = Schemas["PastePlaceShape"];
export type SoftPlace = Schemas["PatchShape"];
export type WallQuestion = Schemas["WallQuestion"];
export type WallRun = Schemas["RunShape"];
export type WallTrial = Schemas["TrialShape"];
export type Cost = Schemas["CostShape"];
export type CostLine = Schemas["CostLineShape"];
/** The server fills in what a kept wish of an earlier version does not say. */
export type Wish = Required<Schemas["WishShape"]>;
export type Cure = Schemas["CureShape"];
export type CureQuestion = Schemas["CureQuestion"];
export type Curve = Schemas["CurveShape"];
export type Limit = Schemas["Limit"];
export type Plan = Schemas["PlanShape"];
export type Coat = Schemas["CoatShape"];
export type Finding = Schemas["FindingShape"];
export type SentenceText = Schemas["SentenceShape"];
export type Why = Schemas["WhyShape"];
export type Stretch = Schemas["StretchShape"];
export type CastSheet = Schemas["SheetShape"];
export type SheetQuestion = Schemas["SheetQuestion"];
export type Pour = Schemas["PourShape"];
export type PouredCoat = Schemas["PouredCoatShape"];
export type PourStep = Schemas["PourStep"];
export type Workshop = Schemas["WorkshopShape"];

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

export const client = createClient<paths>({ baseUrl: "/" });

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
  return error instanceof Error ? error.message : "Something went wrong.";
}

/** The body of a form with one file; the generated type says string where a file is meant. */
export function fileBody(file: File) {
  return {
    body: { file: file as unknown as string },
    bodySerializer: () => {
      const form = new FormData();
      form.append("file", file);
      return form;
    },
  };
}
