import type {
  BlobState,
  CaseDetail,
  CaseLesson,
  CaseSummary,
  FilamentRecord,
  ImportedRecipe,
  MachineRecord,
  PairDetail,
  PairReadiness,
  PairSummary,
  Problem,
  RecipePreview,
  RecipeVersion,
  Relative,
  Trial,
  TrialPhoto,
  UpdatePhoto,
  VersionSummary,
} from '@verimend/contract'
import type {
  CellReading,
  CheckResult,
  DesignedSet,
  Filament,
  Grade,
  Machine,
  PathReading,
  PiecePlan,
  PlaceId,
  SettingKey,
  SettingValue,
  SignId,
  SignResults,
  SuspectId,
  ProcedureId,
} from '@verimend/core'

/** An answer of the server that is a problem; the message is for the person. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
    this.name = 'ApiProblem'
  }
}

const AWAY: Problem = {
  type: 'about:blank#away',
  title: 'No answer',
  status: 0,
  code: 'away',
  detail: 'Verimend does not answer. Is it still running? What you typed is kept here.',
}

async function call<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  let response: Response
  try {
    response = await fetch(`/api/${path}`, {
      method,
      headers:
        body === undefined
          ? {}
          : { 'content-type': body instanceof Blob ? 'application/octet-stream' : 'application/json' },
      body: body === undefined ? undefined : body instanceof Blob ? body : JSON.stringify(body),
      signal,
    })
  } catch {
    throw new ApiProblem(AWAY)
  }
  const data: unknown = await response.json().catch(() => null)
  if (!response.ok) throw new ApiProblem((data as Problem | null) ?? { ...AWAY, status: response.status })
  return data as T
}

const get = <T>(path: string) => call<T>('GET', path)
const post = <T>(path: string, body: unknown = {}) => call<T>('POST', path, body)
const put = <T>(path: string, body: unknown) => call<T>('PUT', path, body)
const remove = <T>(path: string) => call<T>('DELETE', path)

export interface MendChoice {
  proposal: string
  to?: SettingValue
  asHandling?: ProcedureId
}

/** Changes of one grade by key; null lets the value be derived again. */
export type Edits = Partial<Record<SettingKey, SettingValue | null>>
export interface RecipeEdits {
  base: number
  set: Edits
  fine?: Edits
  coarse?: Edits
  measured?: Partial<Record<SettingKey, number>>
  relative?: string | null
  reason: string
}

export const api = {
  machines: {
    list: () => get<MachineRecord[]>('machines'),
    create: (machine: Machine) => post<MachineRecord>('machines', { id: crypto.randomUUID(), machine }),
    update: (id: string, rev: number, machine: Machine) =>
      put<MachineRecord>(`machines/${id}`, { rev, machine }),
    remove: (id: string) => remove<MachineRecord>(`machines/${id}`),
    restore: (id: string) => post<MachineRecord>(`machines/${id}/restore`),
  },
  filaments: {
    list: () => get<FilamentRecord[]>('filaments'),
    create: (filament: Filament) => post<FilamentRecord>('filaments', { id: crypto.randomUUID(), filament }),
    update: (id: string, rev: number, filament: Filament) =>
      put<FilamentRecord>(`filaments/${id}`, { rev, filament }),
    remove: (id: string) => remove<FilamentRecord>(`filaments/${id}`),
    restore: (id: string) => post<FilamentRecord>(`filaments/${id}/restore`),
  },
  pairs: {
    list: () => get<PairSummary[]>('pairs'),
    open: (machineId: string, filamentId: string) => post<PairDetail>('pairs', { machineId, filamentId }),
    one: (id: string) => get<PairDetail>(`pairs/${id}`),
    versions: (id: string) => get<VersionSummary[]>(`pairs/${id}/versions`),
    version: (id: string, number: number) => get<RecipeVersion>(`pairs/${id}/versions/${number}`),
    change: (id: string, edits: RecipeEdits) => post<RecipeVersion>(`pairs/${id}/versions`, edits),
    restore: (id: string, base: number, number: number) =>
      post<RecipeVersion>(`pairs/${id}/restore`, { base, number }),
    mean: (id: string, print: string, meant: boolean) =>
      post<PairDetail>(`pairs/${id}/meant`, { print, meant }),
    readiness: () => get<PairReadiness[]>('pairs/readiness'),
    relatives: (machineId: string, filamentId: string) =>
      get<Relative[]>(`pairs/relatives?machineId=${machineId}&filamentId=${filamentId}`),
  },
  recipes: {
    /** Address of a version in a form, for a link. */
    href: (pairId: string, number: number, form: string, grade: Grade) =>
      `/api/pairs/${pairId}/versions/${number}/recipe.${form}${grade === 'standard' ? '' : `?grade=${grade}`}`,
    read: (text: string) => post<RecipePreview>('recipes/read', { text }),
    take: (body: {
      text: string
      machineId: string | null
      filamentId: string | null
      base: number | null
      take?: { key: string; grade: Grade }[]
    }) => post<ImportedRecipe>('recipes/import', body),
  },
  blobs: {
    begin: (sha256: string, bytes: number) => post<BlobState>('blobs', { sha256, bytes }),
    part: (sha256: string, from: number, part: Blob, signal: AbortSignal) =>
      call<BlobState>('PUT', `blobs/${sha256}?from=${from}`, part, signal),
    finish: (sha256: string, bytes: number) => post<BlobState>('blobs/finish', { sha256, bytes }),
    /** Address of a kept file. */
    href: (sha256: string) => `/api/blobs/${sha256}`,
  },
  trials: {
    list: (pairId: string) => get<Trial[]>(`trials?pairId=${pairId}`),
    one: (id: string) => get<Trial>(`trials/${id}`),
    create: (id: string, pairId: string, plan: PiecePlan, caseId: string | null) =>
      post<Trial>('trials', { id, pairId, plan, caseId }),
    update: (id: string, resolution: number, note: string) =>
      put<Trial>(`trials/${id}`, { resolution, note }),
    read: (id: string, cell: string, reading: CellReading) =>
      put<Trial>(`trials/${id}/readings/${cell}`, reading),
    adopt: (id: string, base: number, keys: SettingKey[]) =>
      post<Trial>(`trials/${id}/adopt`, { base, keys }),
    remove: (id: string) => remove<Trial>(`trials/${id}`),
    restore: (id: string) => post<Trial>(`trials/${id}/restore`),
    photos: (id: string) => get<TrialPhoto[]>(`trials/${id}/photos`),
    addPhoto: (id: string, cell: string, photo: Blob) =>
      call<TrialPhoto[]>('POST', `trials/${id}/cells/${cell}/photos`, photo),
    removePhoto: (id: string, photo: string) => remove<TrialPhoto[]>(`trials/${id}/photos/${photo}`),
    restorePhoto: (id: string, photo: string) => post<TrialPhoto[]>(`trials/${id}/photos/${photo}/restore`),
    /** Address of the piece as G-code. */
    href: (id: string) => `/api/trials/${id}/piece.gcode`,
  },
  photos: {
    add: (caseId: string, photo: Blob, signal?: AbortSignal) =>
      call<CaseDetail>('POST', `cases/${caseId}/photos`, photo, signal),
    update: (id: string, change: UpdatePhoto) => put<CaseDetail>(`photos/${id}`, change),
    remove: (id: string) => remove<CaseDetail>(`photos/${id}`),
    restore: (id: string) => post<CaseDetail>(`photos/${id}/restore`),
    href: (id: string) => `/api/photos/${id}.jpg`,
    small: (id: string) => `/api/photos/${id}/small.jpg`,
  },
  cases: {
    list: () => get<CaseSummary[]>('cases'),
    one: (id: string) => get<CaseDetail>(`cases/${id}`),
    create: (pairId: string, part: string, place: PlaceId | null) =>
      post<CaseDetail>('cases', { id: crypto.randomUUID(), pairId, part, place }),
    update: (id: string, was: { part: string; note: string }, part: string, note: string) =>
      put<CaseDetail>(`cases/${id}`, { was, part, note }),
    remove: (id: string) => remove<CaseDetail>(`cases/${id}`),
    restore: (id: string) => post<CaseDetail>(`cases/${id}/restore`),
    sign: (id: string, sign: SignId, state: 'present' | 'absent' | null) =>
      put<CaseDetail>(`cases/${id}/signs/${sign}`, { state }),
    addFile: (id: string, file: { name: string; bytes: number; sha256: string; reading: PathReading }) =>
      post<CaseDetail>(`cases/${id}/files`, file),
    removeFile: (id: string, file: string) => remove<CaseDetail>(`cases/${id}/files/${file}`),
    addMark: (id: string, fileId: string, marks: { from: number; to: number }[], quantity: string) =>
      post<CaseDetail>(`cases/${id}/marks`, { fileId, marks, quantity }),
    checks: (id: string, by: CheckResult['by'], results: { suspect: SuspectId; found: boolean | null }[]) =>
      put<CaseDetail>(`cases/${id}/checks/${by}`, { results }),
    cannot: (id: string, cannot: string[]) => put<CaseDetail>(`cases/${id}/cannot`, { cannot }),
    learns: (id: string, learns: boolean) => put<CaseDetail>(`cases/${id}/learns`, { learns }),
    lessons: (pairId: string) => get<CaseLesson[]>(`cases/lessons?pairId=${pairId}`),
    addSet: (id: string, set: Pick<DesignedSet, 'design' | 'sign' | 'factors'>) =>
      post<CaseDetail>(`cases/${id}/sets`, {
        design: set.design,
        sign: set.sign,
        factors: set.factors.map(({ proposal, levels }) => ({ proposal, levels })),
      }),
    gradeRun: (id: string, set: string, run: number, grade: number | null) =>
      put<CaseDetail>(`cases/${id}/sets/${set}/runs/${run}`, { grade }),
    removeSet: (id: string, set: string) => remove<CaseDetail>(`cases/${id}/sets/${set}`),
    runHref: (id: string, set: string, run: number) => `/api/cases/${id}/sets/${set}/runs/${run}/posts.gcode`,
    removeMark: (id: string, mark: string) => remove<CaseDetail>(`cases/${id}/marks/${mark}`),
    attempt: (id: string, base: number, mends: MendChoice[]) =>
      post<CaseDetail>(`cases/${id}/attempts`, { base, mends }),
    withdraw: (id: string, number: number) => remove<CaseDetail>(`cases/${id}/attempts/${number}`),
    record: (
      id: string,
      number: number,
      outcome: { results: SignResults; newSigns: SignId[]; notThere: SignId[]; note: string },
    ) => post<CaseDetail>(`cases/${id}/attempts/${number}/outcome`, outcome),
    close: (id: string, rev: number, keep: number) => post<CaseDetail>(`cases/${id}/close`, { rev, keep }),
    reopen: (id: string) => post<CaseDetail>(`cases/${id}/reopen`),
  },
}
