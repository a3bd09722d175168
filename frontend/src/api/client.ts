/** The one way to the server: typed by its schema, every failure turned into a Refusal with a sentence. */
import createClient from 'openapi-fetch';
import { type LabelGrid, paperOf } from '@/support/papers';
import { currentPerson } from '@/support/person';
import { untouchedMs } from '@/support/touch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Job = Schemas['Job'];
export type JobSheet = Schemas['JobSheet'];
export type Chain = JobSheet['chain'];
export type Choices = JobSheet['choices'];
export type Source = Chain['sources'][number];
export type Wire = Source['plugs'][number]['wires'][number];
export type Stated = Source['outputs'][number]['rated'];
export type Amplifier = Chain['amplifiers'][number];
export type Load = Chain['loads'][number];
export type Path = Chain['paths'][number];
export type Question = Schemas['Question'];
export type NewParts = Schemas['NewParts'];
export type Group = Schemas['Group'];
export type Proposal = Schemas['Proposal'];
export type DelayProposal = Schemas['DelayProposal'];
export type Advice = Schemas['Advice'];
export type JobsWanted = NonNullable<paths['/api/jobs']['get']['parameters']['query']>;
/** What a calculation is asked with. */
type Asked<P extends keyof paths> = paths[P] extends { get: { parameters: { query?: infer Q } } }
  ? NonNullable<Q>
  : never;
export type JobEntry = Schemas['JobEntry'];
export type Health = Schemas['Health'];
/** What the live channel tells: what changed in a job, and what its meter shows beside a step's target. */
export type Changed = { job: string; what: string };
export type Metered = { job: string; step: string; row: string; shows: MeterEvent };
export type RunView = Schemas['RunView'];
export type Step = Schemas['Step'];
export type Row = Schemas['Row'];
export type Result = Schemas['Result'];
export type OwnRows = Schemas['OwnRows'];
export type RowState = Schemas['RowState'];
export type StepState = Schemas['StepState'];
export type State = Schemas['State'];
export type Reading = Schemas['Reading'];
export type NewReading = Schemas['NewReading'];
export type NewMark = Schemas['NewMark'];
export type Comparison = Schemas['Comparison'];
export type MeterEvent = Schemas['MeterEvent'];
export type BenchState = Schemas['BenchState'];
export type BenchView = Schemas['BenchView'];
export type Plan = Schemas['Plan'];
export type PathPlan = Schemas['PathPlan'];
export type StageLevel = Schemas['StageLevel'];
export type Finding = Schemas['Finding'];
export type Doubted = Schemas['Doubted'];
export type Unconfirmed = Schemas['Unconfirmed'];
export type Problem = Schemas['Problem'];
export type Change = Schemas['Change'];
export type SheetVersion = Schemas['SheetVersion'];
export type KeptVersion = Schemas['KeptVersion'];
export type Capture = Schemas['Capture'];
export type Photo = Schemas['Photo'];
export type PhotoMark = Schemas['Drawn'];
export type CaptureEntry = Schemas['ListedCapture'];
export type Channel = Schemas['Channel'];
export type CrossoverPlan = Schemas['CrossoverPlan'];
export type VolumeStepsView = Schemas['VolumeStepsView'];
export type Verdict = Schemas['Verdict'];
export type Person = Schemas['Person'];
export type Role = Schemas['Role'];
export type Door = Schemas['Door'];
export type Device = Schemas['Device'];
export type TrailEntry = Schemas['Entry'];
export type Invitation = Schemas['Invitation'];
export type Together = Schemas['Together'];
export type Wish = Schemas['Wish'];
export type SignOffs = Schemas['SignOffs'];
export type Customer = Required<Omit<Schemas['Customer'], 'stays'>> & { stays: Required<Schemas['Stay']>[] };
export type SourceEntry = Schemas['SourceEntry'];
export type SourceSheet = Schemas['SourceSheet'];
export type SourceView = Schemas['SourceView'];
export type Cell = Schemas['Cell'];
export type Spread = Schemas['Spread'];
export type Tried = Schemas['Tried'];
export type Unit = NonNullable<SourceSheet['units']>[number];
export type ShopPart = Schemas['ShopPart'];
export type PartRow = Schemas['PartRow'];
export type PartKind = Schemas['PartKind'];
export type PartsWanted = NonNullable<paths['/api/parts']['get']['parameters']['query']>;
export type PlayedSignal = NonNullable<paths['/api/signal.{file}']['get']['parameters']['query']>;
export type Tone = Schemas['Tone'];
export type SourcesWanted = NonNullable<paths['/api/sources']['get']['parameters']['query']>;
/** What is told of a file besides its bytes. */
export type Told = {
  id: string;
  name: string;
  taken_at: string;
  by: string;
  device?: string;
  sequence?: number;
  full_scale_v?: number;
  expect_hz?: number;
};

/** Details of a photo besides its bytes. */
export type NewPhoto = {
  id: string;
  name: string;
  part?: string;
  step?: string;
  taken_at: string;
  by: string;
  device?: string;
  sequence?: number;
};

/** A request that was not done: `status` 0 means that nobody answered. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly problem: Partial<Problem>,
  ) {
    super(problem.detail ?? 'The server can’t be reached. What was not saved stays on this device.');
  }

  /** What is wrong, without the name that the field has in the API: for a page that shows one field or few. */
  get sentence(): string {
    return this.problem.errors?.[0]?.sentence ?? this.message;
  }

  /** Whether it was this app that refused: its refusals are documents that say so. */
  private get ours(): boolean {
    return this.problem.status === this.status;
  }

  /** Whether sending the same again later can help: nobody was there or signed in, or too much was going on. */
  get passing(): boolean {
    return !this.ours || [0, 401, 408, 421, 423, 425, 429, 502, 503, 504, 507].includes(this.status);
  }
}

type Watcher = (status: number, problem?: Partial<Problem>, address?: string) => void;
const watchers = new Set<Watcher>();

/** Calls `watch` with the status of every answer, 0 for none, what was told with a failure, and who was asked. */
export function onAnswer(watch: Watcher): void {
  watchers.add(watch);
}

const problemOf = (response: Response): Promise<Partial<Problem> | undefined> =>
  response.json().catch(() => undefined) as Promise<Partial<Problem> | undefined>;

async function watchedFetch(request: Request): Promise<Response> {
  try {
    const response = await fetch(request);
    const problem = response.status === 503 ? await problemOf(response.clone()) : undefined;
    watchers.forEach((watch) => watch(response.status, problem, request.url));
    return response;
  } catch (error) {
    watchers.forEach((watch) => watch(0));
    throw error;
  }
}

const client = createClient<paths>({ fetch: watchedFetch });
// A page that still shows one person changes nothing in the name of another, who signed in beside it.
client.use({
  onRequest({ request }) {
    if (currentPerson.value) request.headers.set('rook-untouched', String(Math.floor(untouchedMs() / 1000)));
    const whose = currentPerson.value;
    if (whose && request.method !== 'GET' && !request.headers.has('rook-person'))
      request.headers.set('rook-person', whose);
    return request;
  },
});

type Answer<T> = { data?: T; error?: unknown; response: Response };

async function settle<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await asked;
  } catch {
    throw new Refusal(0, {});
  }
  if (answer.data !== undefined) return answer.data;
  const problem = answer.error;
  throw new Refusal(answer.response.status, problem && typeof problem === 'object' ? problem : {});
}

/** The same of what answers without a word. */
async function settleNothing(asked: Promise<Answer<unknown>>): Promise<void> {
  const answer = await asked.catch(() => undefined);
  if (!answer) throw new Refusal(0, {});
  if (answer.response.ok) return;
  const problem = answer.error;
  throw new Refusal(answer.response.status, problem && typeof problem === 'object' ? problem : {});
}

/** Whose data a record belongs to, and who made it where somebody was signed in. */
export type Meant = { installation: string | null; person: string | null };

/** The headers that keep a record from a server whose data it doesn't belong to, and from another person's name. */
const meantFor = ({ installation, person }: Meant): Record<string, string> => ({
  ...(installation ? { 'rook-installation': installation } : {}),
  ...(person ? { 'rook-person': person } : {}),
});

const inJob = (job_id: string) => ({ path: { job_id } });
const ofCapture = (job_id: string, capture_id: string) => ({ path: { job_id, capture_id } });

export const api = {
  health: () => settle(client.GET('/api/health')),
  /** What is looked for may be a customer's name: it goes into no address. */
  jobs: ({ search, ...wanted }: JobsWanted) =>
    settle(
      client.GET('/api/jobs', {
        params: {
          query: wanted,
          header: search?.trim() ? { 'rook-search': encodeURIComponent(search) } : {},
        },
      }),
    ),
  job: (job: string) => settle(client.GET('/api/jobs/{job_id}', { params: inJob(job) })),
  archive: (job: string, there: boolean) =>
    settle(client.PUT('/api/jobs/{job_id}/archived', { params: inJob(job), body: { there } })),
  remove: (job: string, there: boolean) =>
    settle(client.PUT('/api/jobs/{job_id}/deleted', { params: inJob(job), body: { there } })),
  copyJob: (job: string, body: Schemas['Copy']) =>
    settle(client.POST('/api/jobs/{job_id}/copy', { params: inJob(job), body })),
  createJob: (body: Schemas['NewJob']) => settle(client.POST('/api/jobs', { body })),
  importJob: (job: string, text: string) =>
    settle(
      client.POST('/api/jobs/{job_id}/file', {
        params: inJob(job),
        body: text as never,
        bodySerializer: (body) => body as unknown as string,
        headers: { 'Content-Type': 'application/json' },
      }),
    ),
  importArchive: (new_id: string, file: Blob) =>
    settle(
      client.POST('/api/archives', {
        params: { query: { new_id } },
        body: file as never,
        bodySerializer: (body) => body as unknown as Blob,
        headers: { 'Content-Type': 'application/zip' },
      }),
    ),
  corner: (body: Schemas['CornerQuestion']) => settle(client.POST('/api/corner', { body })),
  readCurve: (file: Blob) =>
    settle(
      client.POST('/api/impedance', {
        body: file as never,
        bodySerializer: (body) => body as unknown as Blob,
        headers: { 'Content-Type': 'text/csv' },
      }),
    ),
  templates: () => settle(client.GET('/api/templates')),
  newParts: () => settle(client.GET('/api/templates/new-parts')),
  methods: () => settle(client.GET('/api/methods')),
  saveSheet: (job: string, body: Schemas['SheetEdit']) =>
    settle(client.PUT('/api/jobs/{job_id}/sheet', { params: inJob(job), body })),
  preview: (job: string, body: JobSheet) =>
    settle(client.POST('/api/jobs/{job_id}/preview', { params: inJob(job), body })),
  history: (job: string) => settle(client.GET('/api/jobs/{job_id}/history', { params: inJob(job) })),
  version: (job_id: string, version: number) =>
    settle(client.GET('/api/jobs/{job_id}/history/{version}', { params: { path: { job_id, version } } })),
  run: (job: string) => settle(client.GET('/api/jobs/{job_id}/run', { params: inJob(job) })),
  readings: (job: string, before: number | null) =>
    settle(
      client.GET('/api/jobs/{job_id}/readings', {
        params: { ...inJob(job), query: before === null ? {} : { before } },
      }),
    ),
  addReading: (job: string, body: NewReading, to: Meant) =>
    settle(client.POST('/api/jobs/{job_id}/readings', { params: inJob(job), body, headers: meantFor(to) })),
  addMark: (job: string, body: NewMark, to: Meant) =>
    settle(client.POST('/api/jobs/{job_id}/marks', { params: inJob(job), body, headers: meantFor(to) })),
  strike: (job: string, record_id: string, reason: string, to: Meant) =>
    settle(
      client.POST('/api/jobs/{job_id}/records/{record_id}/strike', {
        params: { path: { job_id: job, record_id } },
        body: { reason },
        headers: meantFor(to),
      }),
    ),
  putBack: (job: string, record_id: string, to: Meant) =>
    settle(
      client.POST('/api/jobs/{job_id}/records/{record_id}/put-back', {
        params: { path: { job_id: job, record_id } },
        headers: meantFor(to),
      }),
    ),
  result: (job: string) => settle(client.GET('/api/jobs/{job_id}/result', { params: inJob(job) })),
  chapters: (job: string) => settle(client.GET('/api/jobs/{job_id}/chapters', { params: inJob(job) })),
  spectra: (job: string) => settle(client.GET('/api/jobs/{job_id}/spectra', { params: inJob(job) })),
  /** A paper as a file: asked for here, so that the page shows a refusal, not the browser’s list of downloads. */
  paper: (job: string, sheet: Schemas['Sheet']) =>
    settle(
      client.GET('/api/jobs/{job_id}/{sheet}.pdf', {
        params: { path: { job_id: job, sheet }, query: { paper: paperOf() } },
        parseAs: 'blob',
      }),
    ),
  labels: (job: string, query: LabelGrid) =>
    settle(
      client.GET('/api/jobs/{job_id}/labels.pdf', { params: { ...inJob(job), query }, parseAs: 'blob' }),
    ),
  labelPage: (job: string, query: LabelGrid) =>
    settle(
      client.GET('/api/jobs/{job_id}/labels.svg', { params: { ...inJob(job), query }, parseAs: 'blob' }),
    ),
  captures: (job: string) => settle(client.GET('/api/jobs/{job_id}/captures', { params: inJob(job) })),
  capture: (job: string, capture: string) =>
    settle(client.GET('/api/jobs/{job_id}/captures/{capture_id}', { params: ofCapture(job, capture) })),
  renameCapture: (job: string, capture: string, name: string) =>
    settle(
      client.PUT('/api/jobs/{job_id}/captures/{capture_id}/name', {
        params: ofCapture(job, capture),
        body: { name },
      }),
    ),
  attachCapture: (job: string, capture: string, reading_id: string | null) =>
    settle(
      client.PUT('/api/jobs/{job_id}/captures/{capture_id}/reading', {
        params: ofCapture(job, capture),
        body: { reading_id },
      }),
    ),
  useCapture: (job: string, capture: string, body: Schemas['CaptureUse']) =>
    settle(
      client.POST('/api/jobs/{job_id}/captures/{capture_id}/readings', {
        params: ofCapture(job, capture),
        body,
      }),
    ),
  strikeCapture: (job: string, capture: string, reason: string) =>
    settle(
      client.POST('/api/jobs/{job_id}/captures/{capture_id}/strike', {
        params: ofCapture(job, capture),
        body: { reason },
      }),
    ),
  sources: (query: SourcesWanted) => settle(client.GET('/api/sources', { params: { query } })),
  source: (source_id: string, unit: string | null) =>
    settle(
      client.GET('/api/sources/{source_id}', {
        params: { path: { source_id }, query: unit === null ? {} : { unit } },
      }),
    ),
  importSource: (source_id: string, text: string) =>
    settle(
      client.POST('/api/sources/{source_id}/file', {
        params: { path: { source_id } },
        body: text as never,
        bodySerializer: (body) => body as unknown as string,
        headers: { 'Content-Type': 'application/json' },
      }),
    ),
  saveSource: (source_id: string, body: Schemas['SourceEdit']) =>
    settle(client.PUT('/api/sources/{source_id}', { params: { path: { source_id } }, body })),
  sourceFromJob: (source_id: string, body: Schemas['FromJob']) =>
    settle(client.POST('/api/sources/{source_id}/from-job', { params: { path: { source_id } }, body })),
  sourceIntoJob: (source_id: string, body: Schemas['IntoJob']) =>
    settle(client.POST('/api/sources/{source_id}/into-job', { params: { path: { source_id } }, body })),
  door: () => settle(client.GET('/api/doors')),
  signIn: (body: Schemas['SignIn']) => settle(client.POST('/api/doors/sign-in', { body })),
  comeIn: (body: Schemas['ComeIn']) => settle(client.POST('/api/doors/come-in', { body })),
  signOut: () => settleNothing(client.POST('/api/doors/sign-out')),
  changePassword: (body: Schemas['NewPassword']) => settle(client.POST('/api/doors/password', { body })),
  people: () => settle(client.GET('/api/people')),
  devices: () => settle(client.GET('/api/people/devices')),
  codes: () => settle(client.GET('/api/doors/codes')),
  lookAtLink: (link: string) => settle(client.POST('/api/doors/link', { body: { link } })),
  pair: (link: string, device: string, shared: boolean) =>
    settle(client.POST('/api/doors/pair', { body: { link, device, shared } })),
  signInByPin: (person: string, pin: string) =>
    settle(client.POST('/api/doors/pin', { body: { person, pin } })),
  setPin: (body: Schemas['NewPin']) => settleNothing(client.PUT('/api/doors/own-pin', { body })),
  endPin: () => settleNothing(client.DELETE('/api/doors/own-pin')),
  lock: () => settleNothing(client.POST('/api/doors/lock')),
  prove: (body: Schemas['Proof']) => settleNothing(client.POST('/api/doors/prove', { body })),
  unlock: (body: Schemas['Proof']) => settleNothing(client.POST('/api/doors/unlock', { body })),
  passkeys: () => settle(client.GET('/api/doors/passkeys')),
  offerPasskey: () => settle(client.POST('/api/doors/passkeys/offer')),
  addPasskey: (name: string, credential: Record<string, unknown>) =>
    settle(client.POST('/api/doors/passkeys', { body: { name, credential } })),
  removePasskey: (key_id: string) =>
    settleNothing(client.DELETE('/api/doors/passkeys/{key_id}', { params: { path: { key_id } } })),
  askForPasskey: () => settle(client.POST('/api/doors/passkey/ask')),
  signInByPasskey: (credential: Record<string, unknown>) =>
    settle(client.POST('/api/doors/passkey', { body: { credential } })),
  invite: (body: Schemas['Invite']) => settle(client.POST('/api/people/invitations', { body })),
  letGo: (person_id: string, nameless: boolean) =>
    settleNothing(
      client.DELETE('/api/people/{person_id}', { params: { path: { person_id }, query: { nameless } } }),
    ),
  trail: (before: number | null) =>
    settle(client.GET('/api/people/trail', { params: { query: before === null ? {} : { before } } })),
  newWaysIn: () => settle(client.GET('/api/people/trail/news')),
  sawWaysIn: (number: number) => settleNothing(client.PUT('/api/people/trail/seen', { body: { number } })),
  changeDevice: (device_id: string, body: Schemas['DeviceEdit']) =>
    settleNothing(client.PUT('/api/people/devices/{device_id}', { params: { path: { device_id } }, body })),
  beThere: (job: string, body: Schemas['Sign']) =>
    settle(client.PUT('/api/jobs/{job_id}/presence', { params: inJob(job), body })),
  wish: (job: string, body: Schemas['Wanted']) =>
    settle(client.POST('/api/jobs/{job_id}/holding', { params: inJob(job), body })),
  offer: (job: string, reading: NewReading, to: Meant) =>
    settle(
      client.POST('/api/jobs/{job_id}/offers', {
        params: inJob(job),
        body: reading,
        headers: meantFor(to),
      }),
    ),
  takeOffer: (job_id: string, offer_id: string) =>
    settle(
      client.POST('/api/jobs/{job_id}/offers/{offer_id}/take', { params: { path: { job_id, offer_id } } }),
    ),
  leaveOffer: (job_id: string, offer_id: string) =>
    settleNothing(
      client.DELETE('/api/jobs/{job_id}/offers/{offer_id}', { params: { path: { job_id, offer_id } } }),
    ),
  signOffs: (job: string) => settle(client.GET('/api/jobs/{job_id}/sign-offs', { params: inJob(job) })),
  signOff: (job: string, body: Schemas['NewSignOff']) =>
    settle(client.POST('/api/jobs/{job_id}/sign-offs', { params: inJob(job), body })),
  customer: (job: string) => settle(client.GET('/api/jobs/{job_id}/customer', { params: inJob(job) })),
  saveCustomer: (job: string, body: Schemas['CustomerEdit']) =>
    settle(client.PUT('/api/jobs/{job_id}/customer', { params: inJob(job), body })),
  takeCustomerOut: (job: string) =>
    settleNothing(client.DELETE('/api/jobs/{job_id}/customer', { params: inJob(job) })),
  logbook: (query: { since: string; until: string }) =>
    settle(client.GET('/api/logbook', { params: { query } })),
  due: () => settle(client.GET('/api/due')),
  endDevice: (device_id: string) =>
    settleNothing(client.DELETE('/api/people/devices/{device_id}', { params: { path: { device_id } } })),
  binSource: (source_id: string, there: boolean) =>
    settle(
      client.PUT('/api/sources/{source_id}/deleted', { params: { path: { source_id } }, body: { there } }),
    ),
  compareSources: (source_id: string, other_id: string) =>
    settle(
      client.GET('/api/sources/{source_id}/beside/{other_id}', {
        params: { path: { source_id, other_id } },
      }),
    ),
  calculateOutput: (query: Asked<'/api/calculator/output'>) =>
    settle(client.GET('/api/calculator/output', { params: { query } })),
  calculateLevel: (query: Asked<'/api/calculator/level'>) =>
    settle(client.GET('/api/calculator/level', { params: { query } })),
  calculateCorner: (query: Asked<'/api/calculator/corner'>) =>
    settle(client.GET('/api/calculator/corner', { params: { query } })),
  calculateImpedance: (query: Asked<'/api/calculator/impedance'>) =>
    settle(client.GET('/api/calculator/impedance', { params: { query } })),
  instruments: () => settle(client.GET('/api/instruments')),
  bench: (job: string) => settle(client.GET('/api/jobs/{job_id}/bench', { params: inJob(job) })),
  benchScope: (job: string) =>
    settle(client.GET('/api/jobs/{job_id}/bench/scope.csv', { params: inJob(job), parseAs: 'blob' })),
  putCaptureBack: (job: string, capture: string) =>
    settle(
      client.POST('/api/jobs/{job_id}/captures/{capture_id}/put-back', { params: ofCapture(job, capture) }),
    ),
  parts: (query: PartsWanted) => settle(client.GET('/api/parts', { params: { query } })),
  part: (part_id: string) => settle(client.GET('/api/parts/{part_id}', { params: { path: { part_id } } })),
  savePart: (part_id: string, body: Schemas['PartEdit']) =>
    settle(client.PUT('/api/parts/{part_id}', { params: { path: { part_id } }, body })),
  binPart: (part_id: string, there: boolean) =>
    settle(client.PUT('/api/parts/{part_id}/deleted', { params: { path: { part_id } }, body: { there } })),
  importPart: (part_id: string, text: string) =>
    settle(
      client.POST('/api/parts/{part_id}/file', {
        params: { path: { part_id } },
        // A file as it is: what is wrong in it is the server's to say.
        body: text as never,
        bodySerializer: (body) => body as unknown as string,
        headers: { 'Content-Type': 'application/json' },
      }),
    ),
  partFromJob: (part_id: string, body: Schemas['PartOfJob']) =>
    settle(client.POST('/api/parts/{part_id}/from-job', { params: { path: { part_id } }, body })),
  partIntoJob: (part_id: string, body: Schemas['PartIntoJob']) =>
    settle(client.POST('/api/parts/{part_id}/into-job', { params: { path: { part_id } }, body })),
  readAmplifierSpec: (text: string) => settle(client.POST('/api/spec-text/amplifier', { body: { text } })),
  readSpeakerSpec: (text: string) => settle(client.POST('/api/spec-text/speakers', { body: { text } })),
  photos: (job: string) => settle(client.GET('/api/jobs/{job_id}/photos', { params: inJob(job) })),
  changePhoto: (job_id: string, photo_id: string, body: Schemas['PhotoChange']) =>
    settle(
      client.PUT('/api/jobs/{job_id}/photos/{photo_id}', { params: { path: { job_id, photo_id } }, body }),
    ),
  removePhoto: (job_id: string, photo_id: string) =>
    settleNothing(
      client.DELETE('/api/jobs/{job_id}/photos/{photo_id}', { params: { path: { job_id, photo_id } } }),
    ),
  signalChoices: () => settle(client.GET('/api/signals')),
  /** Its name, where there is such a signal. Throws a Refusal. */
  signalName: (query: PlayedSignal) => settle(client.GET('/api/signal', { params: { query } })),
  signal: (signal: PlayedSignal) =>
    settle(
      client.GET('/api/signal.{file}', {
        params: { path: { file: 'wav' }, query: signal },
        parseAs: 'arrayBuffer',
      }),
    ) as Promise<ArrayBuffer>,
  turnBench: (job: string, body: BenchState) =>
    settle(client.PUT('/api/jobs/{job_id}/bench', { params: inJob(job), body })),
};

/** The signal that a run's tone is played by. */
export const signalOf = ({ swept, frequency_hz, level_dbfs = 0 }: Tone): PlayedSignal =>
  swept ? { kind: 'sweep', level_dbfs } : { kind: 'sine', frequency_hz, level_dbfs };
export const toneAddress = (tone: Tone): string => signalAddress('wav', signalOf(tone));

export function jobFileAddress(job: string): string {
  return `/api/jobs/${job}/file`;
}

export function archiveAddress(job: string): string {
  return `/api/jobs/${job}/archive`;
}

export function captureAddress(job: string, capture: string): string {
  return `/api/jobs/${job}/captures/${capture}/file`;
}

export function photoAddress(job: string, photo: string, small = false): string {
  return `/api/jobs/${job}/photos/${photo}/file${small ? '?small=true' : ''}`;
}

/** Sends a file with its progress, from 0 to 1; fetch doesn't tell how far it is. */
export function sendFile<Kept>(
  address: `/api/jobs/${string}/${'captures' | 'photos'}`,
  file: Blob,
  told: Told | NewPhoto,
  to: Meant,
  progress: (share: number) => void,
  signal?: AbortSignal,
): Promise<Kept> {
  const query = new URLSearchParams(
    Object.entries(told).map(([key, value]): [string, string] => [key, String(value)]),
  );
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `${address}?${query}`);
    request.responseType = 'json';
    request.setRequestHeader('Content-Type', 'application/octet-stream');
    for (const [name, value] of Object.entries(meantFor(to))) request.setRequestHeader(name, value);
    request.upload.addEventListener('progress', (event) => progress(event.loaded / Math.max(1, event.total)));
    request.addEventListener('load', () => {
      watchers.forEach((watch) => watch(request.status));
      const answer = request.response as unknown;
      if (request.status === 201) resolve(answer as Kept);
      else reject(new Refusal(request.status, answer && typeof answer === 'object' ? answer : {}));
    });
    request.addEventListener('error', () => {
      watchers.forEach((watch) => watch(0));
      reject(new Refusal(0, {}));
    });
    signal?.addEventListener('abort', () => {
      request.abort();
      reject(new Refusal(0, {}));
    });
    request.send(file);
  });
}

export const partFileAddress = (part: string): string => `/api/parts/${part}/file`;
export const signalAddress = (file: 'wav' | 'flac', signal: PlayedSignal): string =>
  `/api/signal.${file}?${new URLSearchParams(Object.entries(signal).map(([name, value]) => [name, String(value)]))}`;
export const sourceFileAddress = (source: string): string => `/api/sources/${source}/file`;
export const sourceTagAddress = (source: string): string => `/api/sources/${source}/tag`;
export const sourceMatrixAddress = (source: string): string => `/api/sources/${source}/matrix`;
