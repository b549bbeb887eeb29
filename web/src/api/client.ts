import type {
  BlobState,
  CaseDetail,
  CaseFileHead,
  CaseLesson,
  CasePage,
  CaseStatistics,
  CreatePart,
  CreatePrint,
  FilamentRecord,
  Freed,
  ImportedRecipe,
  KeptBackup,
  KeptBackups,
  MachineLink,
  MachineRecord,
  MeasurementAct,
  MeasurementRecord,
  MendChoice,
  TakeUpAttempt,
  Observation,
  PaceName,
  PairDetail,
  PairSummary,
  PartPlanRecord,
  PartRecord,
  PartSummary,
  PhoneAddresses,
  Print,
  PrintPage,
  PrintReport,
  ReadinessPage,
  RecipePreview,
  RecipeVersion,
  Removable,
  RemovedThing,
  Revealed,
  Session,
  SignedInDevice,
  Trial,
  Health,
  ListCases,
  ListPrints,
  TrialPhoto,
  UpdatePhoto,
  VersionSummary,
} from '@verimend/contract'
import type { CellReading, PiecePlan } from '@verimend/core/trials'
import type { DesignedSet, PartFacts, SignResults } from '@verimend/core/casework'
import type { Filament } from '@verimend/core/material'
import type { Machine } from '@verimend/core/machine'
import type { Measured } from '@verimend/core/measurement'
import type { Changes, Grade, NumberKey, RankedRelative, RecipeEdit, SettingKey } from '@verimend/core/recipe'
import type { HeightRange, PathReading, QuantityId } from '@verimend/core/toolpath'
import type { LookId, PlaceId, SignId, SuspectId } from '@verimend/core/knowledge'
import { outbox } from './outbox'
import { call, get, post, put, remove } from './http'
import { newId } from './ids'

/** Changes of a recipe, by grade; null lets a value be derived again. */
export interface RecipeEdits {
  base: number
  set: Changes
  fine?: Changes
  coarse?: Changes
  measured?: RecipeEdit['measured']
  /** Pair to start from; null for none. */
  relative?: string | null
  /** The path file the values were read from. */
  file?: string
  reason: string
}
/** A print file with its reading. */
export interface PrintedFile {
  name: string
  bytes: number
  sha256: string
  reading: PathReading
  /** After which attempt it was printed; the last one where it is left out. */
  afterAttempt?: number
}
/** What became of the signs after an attempt. */
export interface RecordedOutcome {
  results: SignResults
  newSigns: SignId[]
  /** Side effects that were looked for and did not come. */
  notThere: SignId[]
  note: string
}
/** What a check or trial showed of its suspects; null takes an answer back. */
export interface LookAnswers {
  by: LookId
  results: { suspect: SuspectId; found: boolean | null }[]
}

/** Which cases are listed; what is left out is as usual. */
export type AskedCases = Partial<Omit<ListCases, 'withPart'>> & { withPart?: '1' }
/** What is asked, as the end of an address. */
function asText(asked: Record<string, string | number | undefined>): string {
  const given = Object.entries(asked).flatMap(([k, v]) =>
    v === undefined || v === '' ? [] : [[k, String(v)]],
  )
  return given.length ? `?${new URLSearchParams(given)}` : ''
}

/** The server's address space, typed by the contract. */
export const api = {
  health: () => get<Health>('health'),
  backups: {
    list: () => get<KeptBackups>('backups'),
    make: () => post<KeptBackup>('backups'),
    daily: (daily: boolean) => put<KeptBackups>('backups/daily', { daily }),
    remove: (name: string) => remove<KeptBackups>(`backups/${name}`),
    href: (name: string) => `/api/backups/${name}`,
  },
  removed: {
    list: () => get<RemovedThing[]>('removed'),
    restore: (kind: Removable, id: string) => post<RemovedThing[]>(`removed/${kind}/${id}/restore`),
    purge: (kind: Removable, id: string) => remove<Freed>(`removed/${kind}/${id}`),
  },
  session: {
    state: () => get<Session>('session'),
    phone: () => post<PhoneAddresses>('session/phone'),
    devices: () => get<SignedInDevice[]>('session/devices'),
    signOut: (id: string) => remove<SignedInDevice[]>(`session/devices/${id}`),
  },
  machines: {
    list: () => get<MachineRecord[]>('machines'),
    create: (machine: Machine) => post<MachineRecord>('machines', { id: newId(), machine }),
    update: (id: string, rev: number, machine: Machine) =>
      put<MachineRecord>(`machines/${id}`, { rev, machine }),
    remove: (id: string) => remove<MachineRecord>(`machines/${id}`),
    restore: (id: string) => post<MachineRecord>(`machines/${id}/restore`),
  },
  filaments: {
    list: () => get<FilamentRecord[]>('filaments'),
    create: (filament: Filament) => post<FilamentRecord>('filaments', { id: newId(), filament }),
    update: (id: string, rev: number, filament: Filament) =>
      put<FilamentRecord>(`filaments/${id}`, { rev, filament }),
    remove: (id: string) => remove<FilamentRecord>(`filaments/${id}`),
    restore: (id: string) => post<FilamentRecord>(`filaments/${id}/restore`),
  },
  measurements: {
    list: (machineId: string, pairId: string) =>
      get<MeasurementRecord[]>(`measurements?machineId=${machineId}&pairId=${pairId}`),
    one: (id: string) => get<MeasurementRecord>(`measurements/${id}`),
    create: (m: { machineId: string; pairId: string | null; caseId: string | null; measured: Measured }) =>
      post<MeasurementRecord>('measurements', { id: newId(), ...m }),
    update: (id: string, rev: number, measured: Measured, note: string) =>
      outbox.send<MeasurementRecord>({
        what: { of: 'measurement', kind: measured.kind },
        href: `/measure/${id}`,
        method: 'PUT',
        path: `measurements/${id}`,
        body: { rev, measured, note },
        replaces: true,
      }),
    remove: (id: string) => remove<MeasurementRecord>(`measurements/${id}`),
    restore: (id: string) => post<MeasurementRecord>(`measurements/${id}/restore`),
    adopt: (id: string, base: number, settings: NumberKey[]) =>
      post<MeasurementRecord>(`measurements/${id}/adopt`, { base, keys: settings }),
    apply: (id: string, what: Exclude<MeasurementAct['what'], 'recipe'>) =>
      post<MeasurementRecord>(`measurements/${id}/apply`, { what }),
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
    acknowledge: (id: string, fingerprint: string, acknowledged: boolean) =>
      post<PairDetail>(`pairs/${id}/acknowledged`, { fingerprint, acknowledged }),
    readiness: (asked: { pairId?: string; skip?: number; limit?: number }) =>
      get<ReadinessPage>(`pairs/readiness${asText(asked)}`),
    relatives: (machineId: string, filamentId: string) =>
      get<RankedRelative[]>(`pairs/relatives?machineId=${machineId}&filamentId=${filamentId}`),
  },
  recipes: {
    /** Address of a version in a form, for a link. */
    href: (pairId: string, number: number, form: string, grade: Grade) =>
      `/api/pairs/${pairId}/versions/${number}/recipe.${form}${grade === 'standard' ? '' : `?grade=${grade}`}`,
    read: (text: string, to: { machineId?: string; filamentId?: string } = {}) =>
      post<RecipePreview>('recipes/read', { text, ...to }),
    take: (body: {
      text: string
      machineId: string | null
      filamentId: string | null
      base: number | null
      take?: { key: SettingKey; grade: Grade }[]
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
  parts: {
    list: () => get<PartSummary[]>('parts'),
    one: (id: string) => get<PartRecord>(`parts/${id}`),
    create: (part: CreatePart) => post<PartRecord>('parts', part),
    update: (id: string, part: Pick<PartRecord, 'rev' | 'name' | 'note' | 'layout' | 'own'>) =>
      put<PartRecord>(`parts/${id}`, part),
    addVersion: (id: string, mesh: CreatePart['mesh']) => post<PartRecord>(`parts/${id}/versions`, { mesh }),
    addPlan: (id: string, plan: Omit<PartPlanRecord, 'createdAt'>) =>
      post<PartRecord>(`parts/${id}/plans`, plan),
    remove: (id: string) => remove<PartRecord>(`parts/${id}`),
    restore: (id: string) => post<PartRecord>(`parts/${id}/restore`),
  },
  trials: {
    list: (pairId: string) => get<Trial[]>(`trials?pairId=${pairId}`),
    one: (id: string) => get<Trial>(`trials/${id}`),
    create: (id: string, pairId: string, plan: PiecePlan, caseId: string | null) =>
      post<Trial>('trials', { id, pairId, plan, caseId }),
    update: (id: string, resolution: number, note: string) =>
      put<Trial>(`trials/${id}`, { resolution, note }),
    /** @param was what stood there when it was noted: one that comes late does not write over what somebody else noted */
    read: (id: string, cell: string, reading: CellReading, was: CellReading | null) =>
      outbox.send<Trial>({
        what: { of: 'reading', cell },
        href: `/trials/${id}/read?at=${encodeURIComponent(cell)}`,
        method: 'PUT',
        path: `trials/${id}/readings/${cell}`,
        body: { ...reading, was },
        replaces: true,
      }),
    adopt: (id: string, base: number, keys: NumberKey[]) => post<Trial>(`trials/${id}/adopt`, { base, keys }),
    remove: (id: string) => remove<Trial>(`trials/${id}`),
    restore: (id: string) => post<Trial>(`trials/${id}/restore`),
    photos: (id: string) => get<TrialPhoto[]>(`trials/${id}/photos`),
    addPhoto: (id: string, cell: string, photoId: string, photo: Blob) =>
      call<TrialPhoto[]>('POST', `trials/${id}/cells/${cell}/photos?id=${photoId}`, photo),
    removePhoto: (id: string, photo: string) => remove<TrialPhoto[]>(`trials/${id}/photos/${photo}`),
    restorePhoto: (id: string, photo: string) => post<TrialPhoto[]>(`trials/${id}/photos/${photo}/restore`),
    /** Address of the piece as G-code. */
    href: (id: string) => `/api/trials/${id}/piece.gcode`,
  },
  prints: {
    of: (where: Partial<ListPrints>) => get<PrintPage>(`prints${asText(where)}`),
    one: (id: string) => get<Print>(`prints/${id}`),
    create: (id: string, pairId: string, what: CreatePrint['what'], caseId: string | null) =>
      post<Print>('prints', { id, pairId, caseId, what }),
    steer: (id: string, what: 'pause' | 'resume' | 'stop') => post<Print>(`prints/${id}/${what}`),
    enter: (id: string) => post<Print>(`prints/${id}/enter`),
    report: (id: string) => get<PrintReport>(`prints/${id}/report`),
    measure: (
      id: string,
      asked: {
        region: PrintReport['box']
        what: 'outside' | 'inside' | 'wall' | 'grams'
        axis: 'x' | 'y' | 'z'
        repeats: number
      },
    ) => post<number[]>(`prints/${id}/measure`, asked),
    fileHref: (id: string) => `/api/prints/${id}/file.gcode`,
    cameraHref: (id: string, when: string | number) => `/api/prints/${id}/camera.png?at=${when}`,
    pictureHref: (id: string, view: 'side' | 'top' | 'first') => `/api/prints/${id}/picture.png?view=${view}`,
    /** Address of the events of prints. */
    events: '/api/prints/events',
  },
  links: {
    list: () => get<MachineLink[]>('links'),
    setPace: (machineId: string, pace: PaceName) => put<MachineLink>(`links/${machineId}`, { pace }),
    copy: (machineId: string) => post<{ machineId: string }>(`links/${machineId}/copy`, { id: newId() }),
    reveal: (machineId: string) => post<Revealed>(`links/${machineId}/reveal`),
    observe: (machineId: string, pairId: string, check: string, visit: number) =>
      get<Observation>(`links/${machineId}/observed?pairId=${pairId}&check=${check}&visit=${visit}`),
    bed: (machineId: string, pairId: string) =>
      get<{ columns: number; rows: number; points: { x: number; y: number; z: number }[] }>(
        `links/${machineId}/bed?pairId=${pairId}`,
      ),
    practise: (id: string, kind: 'tube' | 'direct' | 'enclosed', hidden: number) =>
      post<{ machineId: string; filamentId: string; pairId: string; caseId: string }>('practice', {
        id,
        kind,
        hidden,
      }),
  },
  photos: {
    /** @param id under which it is taken once, however often it is sent */
    add: (caseId: string, id: string, photo: Blob, signal?: AbortSignal) =>
      call<CaseDetail>('POST', `cases/${caseId}/photos?id=${id}`, photo, signal),
    update: (id: string, change: UpdatePhoto) => put<CaseDetail>(`photos/${id}`, change),
    remove: (id: string) => remove<CaseDetail>(`photos/${id}`),
    restore: (id: string) => post<CaseDetail>(`photos/${id}/restore`),
    href: (id: string) => `/api/photos/${id}.jpg`,
    small: (id: string) => `/api/photos/${id}/small.jpg`,
  },
  cases: {
    list: (asked: AskedCases) => get<CasePage>(`cases${asText(asked)}`),
    statistics: () => get<CaseStatistics>('cases/statistics'),
    one: (id: string) => get<CaseDetail>(`cases/${id}`),
    create: (
      pairId: string,
      part: string,
      place: PlaceId | null,
      longest: number | null,
      partId: string | null = null,
    ) => post<CaseDetail>('cases', { id: newId(), pairId, part, place, longest, partId }),
    update: (id: string, was: { part: string; note: string }, part: string, note: string) =>
      put<CaseDetail>(`cases/${id}`, { was, part, note }),
    part: (id: string, partId: string | null, about: PartFacts | null = null) =>
      put<CaseDetail>(`cases/${id}/part`, { partId, about }),
    longest: (id: string, longest: number | null) => put<CaseDetail>(`cases/${id}/longest`, { longest }),
    remove: (id: string) => remove<CaseDetail>(`cases/${id}`),
    restore: (id: string) => post<CaseDetail>(`cases/${id}/restore`),
    sign: (id: string, sign: SignId, state: 'present' | 'absent' | null) =>
      outbox.send<CaseDetail>({
        what: { of: 'sign', sign, state },
        href: `/cases/${id}`,
        method: 'PUT',
        path: `cases/${id}/signs/${sign}`,
        body: { state },
        replaces: true,
      }),
    addFile: (id: string, file: PrintedFile) => post<CaseDetail>(`cases/${id}/files`, file),
    filesOfPair: (pairId: string) => get<CaseFileHead[]>(`cases/files?pairId=${pairId}`),
    removeFile: (id: string, file: string) => remove<CaseDetail>(`cases/${id}/files/${file}`),
    addMark: (id: string, fileId: string, heightRanges: HeightRange[], quantity: QuantityId) =>
      outbox.send<CaseDetail>({
        what: { of: 'heights', ranges: heightRanges },
        href: `/cases/${id}`,
        method: 'POST',
        path: `cases/${id}/marks`,
        body: { fileId, heightRanges, quantity },
        replaces: false,
      }),
    checks: (id: string, { by, results }: LookAnswers) =>
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
    takeUp: (id: string, change: TakeUpAttempt) =>
      post<CaseDetail>(`cases/${id}/attempts/take-up`, { change }),
    withdraw: (id: string, number: number) => remove<CaseDetail>(`cases/${id}/attempts/${number}`),
    takeBack: (id: string, number: number) =>
      post<CaseDetail>(`cases/${id}/attempts/${number}/take-back`, {}),
    record: (id: string, number: number, outcome: RecordedOutcome) =>
      outbox.send<CaseDetail>({
        what: { of: 'outcome', attempt: number, results: outcome.results },
        href: `/cases/${id}`,
        method: 'POST',
        path: `cases/${id}/attempts/${number}/outcome`,
        body: outcome,
        replaces: true,
      }),
    close: (id: string, rev: number, keep: number) => post<CaseDetail>(`cases/${id}/close`, { rev, keep }),
    reopen: (id: string, back: SignId[]) => post<CaseDetail>(`cases/${id}/reopen`, { back }),
    /** Address of the case to hand on. */
    summaryHref: (id: string, form: 'md' | 'pdf') => `/api/cases/${id}/summary.${form}`,
  },
}
