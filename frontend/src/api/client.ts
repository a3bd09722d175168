/** The one way to the server: typed by its schema, every failure turned into a Refusal with a sentence. */
import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

type Schemas = components['schemas'];
export type Job = Schemas['Job'];
export type JobSheet = Schemas['JobSheet'];
export type Chain = JobSheet['chain'];
export type Choices = JobSheet['choices'];
export type Source = Chain['sources'][number];
export type Stated = Source['outputs'][number]['rated'];
export type Amplifier = Chain['amplifiers'][number];
export type Load = Chain['loads'][number];
export type Path = Chain['paths'][number];
export type Question = Schemas['Question'];
export type NewParts = Schemas['NewParts'];
export type Group = Schemas['Group'];
export type Proposal = Schemas['Proposal'];
export type Advice = Schemas['Advice'];
export type RunView = Schemas['RunView'];
export type Step = Schemas['Step'];
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
export type Course = Schemas['Course'];
export type Finding = Schemas['Finding'];
export type Problem = Schemas['Problem'];
export type Change = Schemas['Change'];
export type Capture = Schemas['Capture'];
export type CaptureEntry = Schemas['CaptureEntry'];
export type Channel = Schemas['Channel'];
export type CrossoverPlan = Schemas['CrossoverPlan'];
export type LadderView = Schemas['LadderView'];
export type Verdict = Schemas['Verdict'];
/** What is told of a file besides its bytes. */
export type Told = {
  id: string;
  name: string;
  taken_at: string;
  by: string;
  full_scale_v?: number;
  expect_hz?: number;
};

/** A request that was not done: `status` 0 means that nobody answered. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly problem: Partial<Problem>,
  ) {
    super(problem.detail ?? 'The server can’t be reached. What was not saved stays on this device.');
  }

  /** Whether sending the same again later can help. */
  get passing(): boolean {
    return this.status === 0 || this.status === 502 || this.status === 503;
  }
}

const watchers = new Set<(status: number) => void>();

/** Calls `watch` with the status of every answer, 0 for none. */
export function onAnswer(watch: (status: number) => void): void {
  watchers.add(watch);
}

async function watchedFetch(request: Request): Promise<Response> {
  try {
    const response = await fetch(request);
    watchers.forEach((watch) => watch(response.status));
    return response;
  } catch (error) {
    watchers.forEach((watch) => watch(0));
    throw error;
  }
}

const client = createClient<paths>({ fetch: watchedFetch });

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

const inJob = (job_id: string) => ({ path: { job_id } });
const ofCapture = (job_id: string, capture_id: string) => ({ path: { job_id, capture_id } });

export const api = {
  health: () => settle(client.GET('/api/health')),
  jobs: () => settle(client.GET('/api/jobs')),
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
  corner: (body: Schemas['CornerQuestion']) => settle(client.POST('/api/corner', { body })),
  templates: () => settle(client.GET('/api/templates')),
  newParts: () => settle(client.GET('/api/templates/new-parts')),
  schools: () => settle(client.GET('/api/schools')),
  saveSheet: (job: string, body: Schemas['SheetEdit']) =>
    settle(client.PUT('/api/jobs/{job_id}/sheet', { params: inJob(job), body })),
  preview: (job: string, body: JobSheet) =>
    settle(client.POST('/api/jobs/{job_id}/preview', { params: inJob(job), body })),
  history: (job: string) => settle(client.GET('/api/jobs/{job_id}/history', { params: inJob(job) })),
  run: (job: string) => settle(client.GET('/api/jobs/{job_id}/run', { params: inJob(job) })),
  addReading: (job: string, body: NewReading) =>
    settle(client.POST('/api/jobs/{job_id}/readings', { params: inJob(job), body })),
  addMark: (job: string, body: NewMark) =>
    settle(client.POST('/api/jobs/{job_id}/marks', { params: inJob(job), body })),
  strike: (job: string, record_id: string, reason: string) =>
    settle(
      client.POST('/api/jobs/{job_id}/records/{record_id}/strike', {
        params: { path: { job_id: job, record_id } },
        body: { reason },
      }),
    ),
  result: (job: string) => settle(client.GET('/api/jobs/{job_id}/result', { params: inJob(job) })),
  captures: (job: string) => settle(client.GET('/api/jobs/{job_id}/captures', { params: inJob(job) })),
  capture: (job: string, capture: string) =>
    settle(client.GET('/api/jobs/{job_id}/captures/{capture_id}', { params: ofCapture(job, capture) })),
  attachCapture: (job: string, capture: string, reading_id: string | null) =>
    settle(
      client.PUT('/api/jobs/{job_id}/captures/{capture_id}/reading', {
        params: ofCapture(job, capture),
        body: { reading_id },
      }),
    ),
  strikeCapture: (job: string, capture: string, reason: string) =>
    settle(
      client.POST('/api/jobs/{job_id}/captures/{capture_id}/strike', {
        params: ofCapture(job, capture),
        body: { reason },
      }),
    ),
  instruments: () => settle(client.GET('/api/instruments')),
  bench: (job: string) => settle(client.GET('/api/jobs/{job_id}/bench', { params: inJob(job) })),
  benchScope: (job: string) =>
    settle(client.GET('/api/jobs/{job_id}/bench/scope.csv', { params: inJob(job), parseAs: 'blob' })),
  turnBench: (job: string, body: BenchState) =>
    settle(client.PUT('/api/jobs/{job_id}/bench', { params: inJob(job), body })),
};

export function toneAddress(tone: PathPlan['tone']): string {
  return `/api/tone.wav?frequency_hz=${tone.frequency_hz}&level_dbfs=${tone.level_dbfs ?? 0}&swept=${tone.swept ?? false}`;
}

export function jobFileAddress(job: string): string {
  return `/api/jobs/${job}/file`;
}

export function captureAddress(job: string, capture: string): string {
  return `/api/jobs/${job}/captures/${capture}/file`;
}

/** Sends a file with its progress, from 0 to 1; fetch doesn't tell how far it is. */
export function sendCapture(
  job: string,
  file: Blob,
  told: Told,
  progress: (share: number) => void,
): Promise<Capture> {
  const query = new URLSearchParams(
    Object.entries(told).map(([key, value]): [string, string] => [key, String(value)]),
  );
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `/api/jobs/${job}/captures?${query}`);
    request.responseType = 'json';
    request.setRequestHeader('Content-Type', 'application/octet-stream');
    request.upload.addEventListener('progress', (event) => progress(event.loaded / Math.max(1, event.total)));
    request.addEventListener('load', () => {
      watchers.forEach((watch) => watch(request.status));
      const answer = request.response as unknown;
      if (request.status === 201) resolve(answer as Capture);
      else reject(new Refusal(request.status, answer && typeof answer === 'object' ? answer : {}));
    });
    request.addEventListener('error', () => {
      watchers.forEach((watch) => watch(0));
      reject(new Refusal(0, {}));
    });
    request.send(file);
  });
}
