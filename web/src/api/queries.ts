/** What the screens read, and how they write: one hook each. A write refreshes what it may have changed. */
import { useMutation, useQuery, useQueryClient, type MutationKey } from "@tanstack/react-query";
import { ABOARD } from "../aboard";
import { api, newKey, Problem, take, type Schemas } from "./client";
import { took } from "./screen";

export type Stage = "plan" | "cut" | "glue" | "break" | "compare";
export const STAGES: readonly Stage[] = ["plan", "cut", "glue", "break", "compare"];

/** How soon one device at the bench sees what was done on another. */
export const OTHERS_MS = 4_000;
export const at = (batch_id: number) => ({ params: { path: { batch_id } } });

export const useToday = () =>
  useQuery({
    queryKey: ["today"],
    queryFn: () => take<"TodayView">(api.GET("/api/today")),
    refetchInterval: 20_000,
    ...ABOARD,
  });
/** What is on record about some words; nothing is asked for fewer than two letters. */
export const useFound = (text: string) =>
  useQuery({
    queryKey: ["search", text],
    queryFn: () => take<"Found">(api.GET("/api/search", { params: { query: { text } } })),
    enabled: text.trim().length > 1,
  });
export const useShop = () =>
  useQuery({ queryKey: ["shop"], queryFn: () => take<"ShopView">(api.GET("/api/shop")), ...ABOARD });
export const useCatalogue = () =>
  useQuery({
    queryKey: ["catalogue"],
    queryFn: () => take<"CatalogueView">(api.GET("/api/catalogue")),
    staleTime: Infinity,
    ...ABOARD,
  });
export const usePlan = (id: number) =>
  useQuery({
    queryKey: ["batch", id, "plan"],
    queryFn: () => take<"PlanView">(api.GET("/api/batches/{batch_id}/plan", at(id))),
  });
export const useCut = (id: number) =>
  useQuery({
    queryKey: ["batch", id, "cut"],
    queryFn: () => take<"CutView">(api.GET("/api/batches/{batch_id}/cut", at(id))),
  });
export const useLabels = (id: number, blind: boolean) =>
  useQuery({
    queryKey: ["batch", id, "labels", blind],
    queryFn: async () =>
      (await take<"CutView">(
        api.GET("/api/batches/{batch_id}/labels", { params: { path: { batch_id: id }, query: { blind } } }),
      )) as unknown as Schemas["Label"][],
  });
export const useGlue = (id: number) =>
  useQuery({
    queryKey: ["batch", id, "glue"],
    queryFn: () => take<"GlueView">(api.GET("/api/batches/{batch_id}/glue", at(id))),
  });
/** The queue; the piece offered next in the order wanted here, and to this screen where it says who it is. */
export const useBreak = (id: number, query: { groups?: boolean; early?: boolean } = {}, screen = "") =>
  useQuery({
    queryKey: ["batch", id, "break", query],
    queryFn: () =>
      take<"BreakView">(
        api.GET("/api/batches/{batch_id}/break", {
          params: { path: { batch_id: id }, query: screen ? { ...query, screen, took: took(id) } : query },
        }),
      ),
    placeholderData: (old) => old,
    refetchInterval: OTHERS_MS,
    ...ABOARD,
  });
export const useWithdrawals = (id: number) =>
  useQuery({
    queryKey: ["batch", id, "withdrawals"],
    queryFn: () => take<"WithdrawalsView">(api.GET("/api/batches/{batch_id}/withdrawals", at(id))),
  });
export const useCautions = (id: number, stage: Stage) =>
  useQuery({
    queryKey: ["batch", id, "cautions", stage],
    queryFn: async () =>
      (await take<"Done">(
        api.GET("/api/batches/{batch_id}/cautions/{stage}", { params: { path: { batch_id: id, stage } } }),
      )) as unknown as Schemas["CautionView"][],
    ...ABOARD,
  });
export const useProtocol = (id: number) =>
  useQuery({
    queryKey: ["batch", id, "protocol"],
    queryFn: () =>
      take<"ProtocolView">(
        api.GET("/api/batches/{batch_id}/protocol", { params: { path: { batch_id: id } } }),
      ),
  });

export const useOwn = (id: number) =>
  useQuery({
    queryKey: ["batch", id, "own"],
    queryFn: () =>
      take<"OwnView">(api.GET("/api/batches/{batch_id}/own", { params: { path: { batch_id: id } } })),
  });

export const useBenchSheet = (id: number) =>
  useQuery({
    queryKey: ["batch", id, "bench-sheet"],
    queryFn: () =>
      take<"BenchSheet">(
        api.GET("/api/batches/{batch_id}/bench-sheet", { params: { path: { batch_id: id } } }),
      ),
  });

export const useProtocols = () =>
  useQuery({
    queryKey: ["shop", "protocols"],
    queryFn: async () => {
      const { data } = await api.GET("/api/protocols");
      return data ?? {};
    },
  });

interface CompareQuery {
  figure: string;
  /** Whether what fell apart counts as 0; null as the plan has it. */
  fallen: boolean | null;
  every: boolean;
  /** Kinds of flags whose pieces are left out for a look without them. */
  without: string[];
  /** Boards whose pieces are left out likewise. */
  boards: string[];
  /** What counts as one: pieces, parents, or empty as the plan has it. */
  unit: string;
  /** Which mark of a curve is the strength; empty as the plan has it. */
  strength: string;
  /** The joint as it broke, or the bond; empty as the plan has it. */
  target: string;
  /** The rule by which a treatment is averaged; empty for the mean of all. */
  school: string;
  /** Ranges that pieces must lie in: quantity:from:to. */
  only: string[];
  /** The share of the reference that is looked for along an axis; empty for nine tenths. */
  reach: string;
}

export function useCompare(id: number, { fallen, every, reach, ...rest }: CompareQuery) {
  const query = {
    ...rest,
    ...(reach ? { reach: Number(reach) } : {}),
    all_pairs: every,
    ...(fallen === null ? {} : { fallen_as_zero: fallen }),
  };
  return useQuery({
    queryKey: ["batch", id, "compare", query],
    queryFn: () =>
      take<"CompareView">(
        api.GET("/api/batches/{batch_id}/compare", { params: { path: { batch_id: id }, query } }),
      ),
    placeholderData: (old) => old,
  });
}

export const useWorkingHours = () =>
  useQuery({
    queryKey: ["shop", "bench"],
    queryFn: () => take<"WorkingHoursView">(api.GET("/api/working-hours")),
  });
export const useAir = () =>
  useQuery({ queryKey: ["shop", "air"], queryFn: () => take<"AirView">(api.GET("/api/climate")) });
/** The schedule; while a better one is sought it is asked for again every second. */
export const useSchedule = (id: number) =>
  useQuery({
    queryKey: ["batch", id, "schedule"],
    queryFn: () => take<"ScheduleView">(api.GET("/api/batches/{batch_id}/schedule", at(id))),
    refetchInterval: (q) => (q.state.data?.seeking ? 1000 : false),
  });

export const usePiece = (id: number, code: string) =>
  useQuery({
    queryKey: ["batch", id, "piece", code],
    queryFn: () =>
      take<"PieceView">(
        api.GET("/api/batches/{batch_id}/pieces/{code}", { params: { path: { batch_id: id, code } } }),
      ),
  });

export const useAgainst = (id: number, other: number | null) =>
  useQuery({
    queryKey: ["batch", id, "against", other],
    enabled: other !== null,
    queryFn: () =>
      take<"Against">(
        api.GET("/api/batches/{batch_id}/against/{other_id}", {
          params: { path: { batch_id: id, other_id: other ?? 0 } },
        }),
      ),
  });

/** A write; afterwards everything of the batch, and home, is read again. */
export function useWrite<In, Out>(
  write: (input: In) => Promise<Out>,
  batch?: number,
  mutationKey?: MutationKey,
) {
  const client = useQueryClient();
  return useMutation<Out, Problem, In>({
    mutationFn: write,
    mutationKey,
    onSettled: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: batch === undefined ? ["batch"] : ["batch", batch] }),
        client.invalidateQueries({ queryKey: ["today"] }),
        client.invalidateQueries({ queryKey: ["shop"] }),
      ]),
  });
}

export const parseQuantity = (text: string, dimension: string, unit: string) =>
  take<"ParsedQuantity">(api.POST("/api/quantities", { body: { text, dimension, unit } }));
export const readLevels = (body: Schemas["LevelListIn"]) =>
  take<"ListedLevels">(api.POST("/api/batches/levels", { body }));
export const crossed = (body: Schemas["CrossingIn"]) =>
  take<"Crossed">(api.POST("/api/batches/crossing", { body }));

export const writes = {
  createBatch: (name: string) => take<"Id">(api.POST("/api/batches", { body: { name, start: "own" } })),
  createFrom: (name: string, start: string) =>
    take<"Id">(api.POST("/api/batches", { body: { name, start } })),
  copyBatch: (id: number, name: string) =>
    take<"Id">(api.POST("/api/batches/{batch_id}/copy", { ...at(id), body: { name } })),
  /** A plan's file, as text: what it holds is judged by the server. */
  planFile: (text: string) => {
    let body: Schemas["PlanFileIn"];
    try {
      body = JSON.parse(text) as Schemas["PlanFileIn"];
    } catch {
      throw new Problem(
        0,
        "This file is not a plan: it cannot be read as JSON. " +
          "Choose the file that “Save the plan as a file” made.",
      );
    }
    return take<"Id">(api.POST("/api/batches/from-plan", { body }));
  },
  startFrom: (id: number, version: number, start: string) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/start", { ...at(id), body: { version, start } })),
  importCsv: (text: string) =>
    take<"Imported">(
      api.POST("/api/batches/import", {
        body: text,
        headers: { "Content-Type": "text/csv" },
        bodySerializer: (b) => b ?? "",
      }),
    ),
  savePlan: (id: number, body: Schemas["PlanIn"]) =>
    take<"PlanView">(api.PUT("/api/batches/{batch_id}/plan", { ...at(id), body })),
  lock: (id: number, version: number, seed: number | null) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/lock", { ...at(id), body: { version, seed } })),
  askQuestions: (id: number, questions: Schemas["QuestionIn"][]) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/questions", { ...at(id), body: { questions } })),
  layOut: (id: number, body: Schemas["SawIn"]) =>
    take<"CutView">(api.POST("/api/batches/{batch_id}/layout", { ...at(id), body })),
  recut: (id: number, code: string) =>
    take<"CutView">(api.POST("/api/batches/{batch_id}/recut", { ...at(id), body: { code } })),
  defect: (id: number, code: string, body: Schemas["DefectIn"]) =>
    take<"PieceView">(
      api.POST("/api/batches/{batch_id}/pieces/{code}/defects", {
        params: { path: { batch_id: id, code } },
        body,
      }),
    ),
  faces: (id: number, body: Schemas["StepsIn"]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/faces", { ...at(id), body })),
  pair: (id: number, body: Schemas["PairIn"]) =>
    take<"Pairing">(api.POST("/api/batches/{batch_id}/pair", { ...at(id), body })),
  swap: (id: number, body: Schemas["PairIn"]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/swap", { ...at(id), body })),
  workingHours: (body: Schemas["WorkingHoursIn"]) =>
    take<"WorkingHoursView">(api.PUT("/api/working-hours", { body })),
  clamps: (body: Schemas["ClampsIn"]) => take<"WorkingHoursView">(api.POST("/api/clamps", { body })),
  retireClamps: (clamp_id: number) =>
    take<"Id">(api.POST("/api/clamps/{clamp_id}/retire", { params: { path: { clamp_id } } })),
  schedule: (id: number, body: Schemas["ScheduleIn"]) =>
    take<"ScheduleView">(api.POST("/api/batches/{batch_id}/schedule", { ...at(id), body })),
  jointRecord: (id: number, body: Schemas["JointRecordIn"]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/joint-records", { ...at(id), body })),
  climate: (body: Schemas["ClimateIn"]) => take<"AirView">(api.POST("/api/climate", { body })),
  bottleEvent: ({ id, ...body }: { id: number } & Schemas["BottleEventIn"]) =>
    take<"ShopView">(
      api.POST("/api/bottles/{bottle_id}/events", { params: { path: { bottle_id: id } }, body }),
    ),
  moveRun: (id: number, run: number, body: { to: string; snap: boolean }) =>
    take<"ScheduleView">(
      api.POST("/api/batches/{batch_id}/schedule/move", { ...at(id), body: { run, ...body } }),
    ),
  stopSchedule: (id: number) => take<"Done">(api.POST("/api/batches/{batch_id}/schedule/stop", at(id))),
  /** A tap keeps its key from the moment it was made, however often it is sent. */
  tap: (id: number, body: Schemas["TapIn"], key: string) =>
    take<"Done">(
      api.POST("/api/batches/{batch_id}/taps", { ...at(id), body, headers: { "Idempotency-Key": key } }),
    ),
  condition: (id: number, body: Schemas["ConditionIn"]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/condition", { ...at(id), body })),
  whatIf: (id: number, body: Schemas["WhatIfIn"]) =>
    take<"WhatIf">(api.POST("/api/batches/{batch_id}/schedule/what-if", { ...at(id), body })),
  places: (id: number) => take<"CutView">(api.POST("/api/batches/{batch_id}/places", at(id))),
  spare: (id: number, code: string) =>
    take<"CodeIn">(api.POST("/api/batches/{batch_id}/spare", { ...at(id), body: { code } })),
  trial: (id: number, body: Schemas["TrialIn"]) =>
    take<"CodeIn">(api.POST("/api/batches/{batch_id}/trial", { ...at(id), body })),
  mark: (id: number, body: Schemas["MarkIn"]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/protocol", { ...at(id), body })),
  keepProtocol: (body: Schemas["ProtocolIn"]) => take<"Done">(api.POST("/api/protocols", { body })),
  own: (id: number, body: Schemas["OwnValuesIn"]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/own", { ...at(id), body })),
  level: (id: number, body: Schemas["NewLevelIn"]) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/level", { ...at(id), body })),
  draw: (id: number, body: Schemas["DrawIn"]) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/draw", { ...at(id), body })),
  benchSheet: (id: number, body: Schemas["BenchSheetIn"]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/bench-sheet", { ...at(id), body })),
  guess: (id: number, body: Schemas["GuessIn"]) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/guess", { ...at(id), body })),
  constant: (id: number, body: Schemas["ConstantIn"]) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/constant", { ...at(id), body })),
  treatment: (id: number, body: Schemas["TreatmentIn"]) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/treatment", { ...at(id), body })),
  keepTemplate: (id: number, name: string) =>
    take<"Id">(api.POST("/api/batches/{batch_id}/template", { ...at(id), body: { name } })),
  fromTemplate: (id: number, version: number, template_id: number) =>
    take<"PlanView">(
      api.POST("/api/batches/{batch_id}/from-template/{template_id}", {
        params: { path: { batch_id: id, template_id } },
        body: { version },
      }),
    ),
  dropTemplate: (template_id: number) =>
    take<"Id">(api.DELETE("/api/batches/templates/{template_id}", { params: { path: { template_id } } })),
  claim: (id: number, body: Schemas["ClaimIn"]) =>
    take<"Id">(api.POST("/api/batches/{batch_id}/claim", { ...at(id), body })),
  more: (id: number, body: Schemas["MoreIn"]) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/more", { ...at(id), body })),
  leaveOut: (id: number, body: Schemas["LeaveOutIn"]) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/leave-out", { ...at(id), body })),
  control: (id: number, body: Schemas["ControlIn"]) =>
    take<"PlanView">(api.POST("/api/batches/{batch_id}/control", { ...at(id), body })),
  cautions: (id: number, stage: Stage) =>
    take<"Id">(
      api.POST("/api/batches/{batch_id}/cautions/{stage}", { params: { path: { batch_id: id, stage } } }),
    ),
  sizes: (id: number, cells: Schemas["SizeIn"][]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/sizes", { ...at(id), body: { cells } })),
  glueup: (id: number, body: Schemas["GlueupIn"]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/glueups", { ...at(id), body })),
  exception: (id: number, body: Schemas["ExceptionIn"]) =>
    take<"Done">(api.POST("/api/batches/{batch_id}/exceptions", { ...at(id), body })),
  unclamp: (id: number, codes: string[], confirmed: string[] = []) =>
    take<"Done">(
      api.POST("/api/batches/{batch_id}/unclamp", { ...at(id), body: { codes, note: "", confirmed } }),
    ),
  pull: (id: number, body: Schemas["PullIn"]) =>
    take<"Id">(api.POST("/api/batches/{batch_id}/pulls", { ...at(id), body })),
  endPull: () => take<"LivePull">(api.POST("/api/rig/end")),
  zero: () => take<"Zeroed">(api.POST("/api/rig/zero")),
  discard: (id: number, pull_id: number, reason: string) =>
    take<"Id">(
      api.POST("/api/batches/{batch_id}/pulls/{pull_id}/discard", {
        params: { path: { batch_id: id, pull_id } },
        body: { reason },
      }),
    ),
  /** Like a tap: under one key a reading counts once, however often it is sent. */
  observe: (id: number, body: Schemas["ObservationIn"], key = newKey()) =>
    take<"Observed">(
      api.POST("/api/batches/{batch_id}/observations", {
        ...at(id),
        body,
        headers: { "Idempotency-Key": key },
      }),
    ),
  correct: (id: number, code: string, body: Schemas["CorrectionIn"]) =>
    take<"Observed">(
      api.PATCH("/api/batches/{batch_id}/observations/{code}", {
        params: { path: { batch_id: id, code } },
        body,
      }),
    ),
  hand: (id: number, body: Schemas["HandIn"]) =>
    take<"HandOut">(api.POST("/api/batches/{batch_id}/hand", { ...at(id), body })),
  settings: (body: Schemas["SettingsIn"]) => take<"ShopView">(api.PUT("/api/settings", { body })),
  bottle: (body: Schemas["BottleIn"]) => take<"ShopView">(api.POST("/api/bottles", { body })),
  board: (body: Schemas["BoardIn"]) => take<"ShopView">(api.POST("/api/boards", { body })),
  retireBoard: (board_id: number) =>
    take<"ShopView">(api.POST("/api/boards/{board_id}/retire", { params: { path: { board_id } } })),
};
