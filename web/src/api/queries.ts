import { QueryClient, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import type { CaseDetail, Trial } from '@verimend/contract'
import { api } from './client'
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
  },
})

export const useMachines = () => useQuery({ queryKey: keys.machines, queryFn: api.machines.list })
export const useFilaments = () => useQuery({ queryKey: keys.filaments, queryFn: api.filaments.list })
export const usePairs = () => useQuery({ queryKey: keys.pairs.list, queryFn: api.pairs.list })
export const usePair = (id: string | null | undefined) =>
  useQuery({ queryKey: keys.pairs.one(id), queryFn: () => api.pairs.one(id!), enabled: !!id })
export const useVersions = (id: string | null | undefined) =>
  useQuery({ queryKey: keys.pairs.versions(id), queryFn: () => api.pairs.versions(id!), enabled: !!id })
export const useVersion = (id: string, number: number | null) =>
  useQuery({
    queryKey: keys.pairs.version(id, number),
    queryFn: () => api.pairs.version(id, number!),
    enabled: number !== null,
    staleTime: Infinity,
  })
export const useReadiness = () => useQuery({ queryKey: keys.pairs.readiness, queryFn: api.pairs.readiness })
export const useRelatives = (machineId: string | undefined, filamentId: string | undefined) =>
  useQuery({
    queryKey: keys.pairs.relatives(machineId, filamentId),
    queryFn: () => api.pairs.relatives(machineId!, filamentId!),
    enabled: !!machineId && !!filamentId,
  })
export const useCases = () => useQuery({ queryKey: keys.cases.list, queryFn: api.cases.list })
export const caseQuery = (id: string) => ({
  queryKey: keys.cases.one(id),
  queryFn: () => api.cases.one(id),
})
export const useCase = (id: string) => useQuery(caseQuery(id))
export const useLessons = (pairId: string | null) =>
  useQuery({
    queryKey: keys.cases.lessonsOf(pairId),
    queryFn: () => api.cases.lessons(pairId!),
    enabled: pairId !== null,
  })
export const useFilesOfPair = (pairId: string) =>
  useQuery({ queryKey: keys.cases.filesOf(pairId), queryFn: () => api.cases.filesOfPair(pairId) })
export const useTrials = (pairId: string | null) =>
  useQuery({
    queryKey: keys.trials.ofPair(pairId),
    queryFn: () => api.trials.list(pairId!),
    enabled: pairId !== null,
  })
export const useTrial = (id: string) =>
  useQuery({ queryKey: keys.trials.one(id), queryFn: () => api.trials.one(id) })
export const useTrialPhotos = (id: string) =>
  useQuery({ queryKey: keys.trials.photos(id), queryFn: () => api.trials.photos(id) })

/** A change of a case: the answer replaces the case at once, everything that hangs on it is asked for anew. */
export function useCaseChange<V = void>(id: string, run: (value: V) => Promise<CaseDetail>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: run,
    onSuccess: (data) => {
      client.setQueryData(keys.cases.one(id), data)
      void changed.case(client, data.pairId)
    },
  })
}

/** A change of a trial: the answer takes its place at once. */
export function useTrialChange<V = void>(id: string, run: (value: V) => Promise<Trial>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: run,
    onSuccess: (data) => {
      client.setQueryData(keys.trials.one(id), data)
      void changed.trial(client, data.pairId)
    },
  })
}
