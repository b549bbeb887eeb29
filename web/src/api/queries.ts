import {
  keepPreviousData,
  QueryClient,
  type QueryKey,
  queryOptions,
  replaceEqualDeep,
  useMutation,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query'
import type { CaseDetail, ListPrints, Trial } from '@verimend/contract'
import { api, type AskedCases } from './client'
import { ApiProblem } from './http'
import { changed, keys } from './keys'

/** Answers that are worth asking for again: a server or database that starts anew. */
const comesBack = (error: unknown) =>
  !(error instanceof ApiProblem) || error.problem.status === 503 || error.problem.status === 0

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (count, error) => count < 4 && comesBack(error),
      retryDelay: (n) => Math.min(4000, 400 * 2 ** n),
    },
    // tried whatever the browser thinks of its connection: what cannot be sent is said, or kept, at once
    mutations: { networkMode: 'always' },
  },
})

/** Two changes on their way at once can be answered in the other order: the newer revision stays. */
const newerRevision = (before: unknown, after: unknown): unknown => {
  const had = before as CaseDetail | undefined
  const got = after as CaseDetail
  return had && had.rev > got.rev ? had : replaceEqualDeep(had, got)
}

/** What is asked of the server, and what the answer is kept under. */
export const query = {
  health: () =>
    queryOptions({ queryKey: keys.health, queryFn: api.health, refetchInterval: 60_000, retry: false }),
  devices: () => queryOptions({ queryKey: keys.devices, queryFn: api.session.devices }),
  session: () => queryOptions({ queryKey: keys.session, queryFn: api.session.state, staleTime: Infinity }),
  backups: () => queryOptions({ queryKey: keys.backups, queryFn: api.backups.list }),
  removed: () => queryOptions({ queryKey: keys.removed, queryFn: api.removed.list, staleTime: 0 }),
  machines: () => queryOptions({ queryKey: keys.machines, queryFn: api.machines.list }),
  filaments: () => queryOptions({ queryKey: keys.filaments, queryFn: api.filaments.list }),
  pairs: () => queryOptions({ queryKey: keys.pairs.list, queryFn: api.pairs.list }),
  pair: (id: string | null | undefined) =>
    queryOptions({ queryKey: keys.pairs.one(id), queryFn: () => api.pairs.one(id!), enabled: !!id }),
  versions: (id: string) =>
    queryOptions({ queryKey: keys.pairs.versions(id), queryFn: () => api.pairs.versions(id) }),
  version: (id: string, number: number | null) =>
    queryOptions({
      queryKey: keys.pairs.version(id, number),
      queryFn: () => api.pairs.version(id, number!),
      enabled: number !== null,
      staleTime: Infinity,
    }),
  readiness: (asked: { pairId?: string; skip?: number; limit?: number }) =>
    queryOptions({
      queryKey: keys.pairs.readinessOf(asked),
      queryFn: () => api.pairs.readiness(asked),
      // the page before stays in sight until the next one is there
      placeholderData: keepPreviousData,
    }),
  relatives: (machineId: string | undefined, filamentId: string | undefined) =>
    queryOptions({
      queryKey: keys.pairs.relatives(machineId, filamentId),
      queryFn: () => api.pairs.relatives(machineId!, filamentId!),
      enabled: !!machineId && !!filamentId,
    }),
  cases: (asked: AskedCases) =>
    queryOptions({
      queryKey: keys.cases.listOf(asked),
      queryFn: () => api.cases.list(asked),
      placeholderData: keepPreviousData,
    }),
  caseStatistics: () => queryOptions({ queryKey: keys.cases.statistics, queryFn: api.cases.statistics }),
  case: (id: string) =>
    queryOptions({
      queryKey: keys.cases.one(id),
      queryFn: () => api.cases.one(id),
      enabled: !!id,
      structuralSharing: newerRevision,
    }),
  lessons: (pairId: string | null) =>
    queryOptions({
      queryKey: keys.cases.lessonsOf(pairId),
      queryFn: () => api.cases.lessons(pairId!),
      enabled: pairId !== null,
    }),
  filesOfPair: (pairId: string) =>
    queryOptions({ queryKey: keys.cases.filesOf(pairId), queryFn: () => api.cases.filesOfPair(pairId) }),
  measurements: (machineId: string | undefined, pairId: string | undefined) =>
    queryOptions({
      queryKey: keys.measurements.of(machineId, pairId),
      queryFn: () => api.measurements.list(machineId!, pairId!),
      enabled: !!machineId && !!pairId,
    }),
  measurement: (id: string) =>
    queryOptions({ queryKey: keys.measurements.one(id), queryFn: () => api.measurements.one(id) }),
  parts: () => queryOptions({ queryKey: keys.parts.list, queryFn: api.parts.list }),
  part: (id: string) => queryOptions({ queryKey: keys.parts.one(id), queryFn: () => api.parts.one(id) }),
  links: () => queryOptions({ queryKey: keys.links, queryFn: api.links.list }),
  prints: (where: Partial<ListPrints>) =>
    queryOptions({ queryKey: keys.prints.of(where), queryFn: () => api.prints.of(where) }),
  print: (id: string) => queryOptions({ queryKey: keys.prints.one(id), queryFn: () => api.prints.one(id) }),
  printReport: (id: string, enabled: boolean) =>
    queryOptions({
      queryKey: keys.prints.report(id),
      queryFn: () => api.prints.report(id),
      enabled,
      staleTime: Infinity,
    }),
  trials: (pairId: string | null) =>
    queryOptions({
      queryKey: keys.trials.ofPair(pairId),
      queryFn: () => api.trials.list(pairId!),
      enabled: pairId !== null,
    }),
  trial: (id: string) => queryOptions({ queryKey: keys.trials.one(id), queryFn: () => api.trials.one(id) }),
  trialPhotos: (id: string) =>
    queryOptions({ queryKey: keys.trials.photos(id), queryFn: () => api.trials.photos(id) }),
}

export const useDevices = (enabled: boolean) => useQuery({ ...query.devices(), enabled })
export const useSession = () => useQuery(query.session())
export const useBackups = () => useQuery(query.backups())
export const useRemoved = () => useQuery(query.removed())
export const useMachines = () => useQuery(query.machines())
export const useFilaments = () => useQuery(query.filaments())
export const usePairs = () => useQuery(query.pairs())
export const usePair = (id: string | null | undefined) => useQuery(query.pair(id))
export const useVersions = (id: string, enabled = true) => useQuery({ ...query.versions(id), enabled })
export const useVersion = (id: string, number: number | null) => useQuery(query.version(id, number))
export const useReadiness = (asked: { pairId?: string; skip?: number; limit?: number } = {}) =>
  useQuery(query.readiness(asked))
export const useRelatives = (machineId: string | undefined, filamentId: string | undefined) =>
  useQuery(query.relatives(machineId, filamentId))
export const useCases = (asked: AskedCases, enabled = true) => useQuery({ ...query.cases(asked), enabled })
export const useCaseStatistics = () => useQuery(query.caseStatistics())
export const useCase = (id: string) => useQuery(query.case(id))
export const useLessons = (pairId: string | null) => useQuery(query.lessons(pairId))
export const useFilesOfPair = (pairId: string) => useQuery(query.filesOfPair(pairId))
export const useMeasurements = (machineId: string | undefined, pairId: string | undefined) =>
  useQuery(query.measurements(machineId, pairId))
export const useMeasurement = (id: string) => useQuery(query.measurement(id))
export const useParts = () => useQuery(query.parts())
export const usePart = (id: string) => useQuery(query.part(id))
export const useHealth = () => useQuery(query.health())
export const useLinks = () => useQuery(query.links())
/** The simulated machine's link; null where the machine is a real one, undefined until it is known. */
export const useLink = (machineId: string | undefined) => {
  const { data } = useLinks()
  return data && (data.find((l) => l.machineId === machineId) ?? null)
}
/** Prints of something, the newest first; while another page is on its way, the one before stays in sight. */
export const usePrints = (where: Partial<ListPrints>) =>
  useQuery({ ...query.prints(where), placeholderData: keepPreviousData })
export const usePrint = (id: string) => useQuery(query.print(id))
export const usePrintReport = (id: string, enabled: boolean) => useQuery(query.printReport(id, enabled))
export const useTrials = (pairId: string | null) => useQuery(query.trials(pairId))
export const useTrial = (id: string) => useQuery(query.trial(id))
export const useTrialPhotos = (id: string) => useQuery(query.trialPhotos(id))

/**
 * A change of a record whose answer is the whole record: one after another, in the order they were made, so that none overtakes
 * another; and an answer takes its place only when no later change is on its way, which it would not hold yet.
 */
function useOrderedChange<V, T>(of: QueryKey, run: (value: V) => Promise<T>, done: (data: T) => void) {
  const client = useQueryClient()
  const mutationKey = ['change', ...of]
  return useMutation({
    mutationKey,
    scope: { id: JSON.stringify(of) },
    mutationFn: run,
    onSuccess: (data) => {
      if (client.isMutating({ mutationKey }) <= 1) client.setQueryData(of, data)
      done(data)
    },
  })
}

/**
 * A change of a case: the answer replaces the case at once, what hangs on it is asked for anew.
 * @param stale what hangs on it; all there is when left out
 */
export function useCaseChange<V = void>(
  id: string,
  run: (value: V) => Promise<CaseDetail>,
  stale = changed.case,
) {
  const client = useQueryClient()
  return useOrderedChange(keys.cases.one(id), run, (data) => void stale(client, data.pairId))
}

/** A change of a trial: the answer takes its place at once. */
export function useTrialChange<V = void>(id: string, run: (value: V) => Promise<Trial>) {
  const client = useQueryClient()
  return useOrderedChange(keys.trials.one(id), run, (data) => void changed.trial(client, data.pairId))
}
