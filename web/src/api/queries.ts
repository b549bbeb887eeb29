import { QueryClient, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import type { Trial, CaseDetail } from '@verimend/contract'
import { ApiProblem, api } from './client'

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (count, error) =>
        count < 4 &&
        (!(error instanceof ApiProblem) || error.problem.status === 503 || error.problem.status === 0),
      retryDelay: (n) => Math.min(4000, 400 * 2 ** n),
    },
  },
})

export const useMachines = () => useQuery({ queryKey: ['machines'], queryFn: api.machines.list })
export const useFilaments = () => useQuery({ queryKey: ['filaments'], queryFn: api.filaments.list })
export const usePairs = () => useQuery({ queryKey: ['pairs'], queryFn: api.pairs.list })
export const useCases = () => useQuery({ queryKey: ['cases'], queryFn: api.cases.list })
export const usePair = (id: string | null | undefined) =>
  useQuery({ queryKey: ['pair', id], queryFn: () => api.pairs.one(id!), enabled: !!id })
export const useVersions = (id: string | null | undefined) =>
  useQuery({ queryKey: ['versions', id], queryFn: () => api.pairs.versions(id!), enabled: !!id })
export const useVersion = (id: string, number: number | null) =>
  useQuery({
    queryKey: ['version', id, number],
    queryFn: () => api.pairs.version(id, number!),
    enabled: number !== null,
    staleTime: Infinity,
  })
export const useReadiness = () => useQuery({ queryKey: ['readiness'], queryFn: api.pairs.readiness })
export const useRelatives = (machineId: string | undefined, filamentId: string | undefined) =>
  useQuery({
    queryKey: ['relatives', machineId, filamentId],
    queryFn: () => api.pairs.relatives(machineId!, filamentId!),
    enabled: !!machineId && !!filamentId,
  })
export const useLessons = (pairId: string | null) =>
  useQuery({
    queryKey: ['lessons', pairId],
    queryFn: () => api.cases.lessons(pairId!),
    enabled: pairId !== null,
  })
export const useTrials = (pairId: string | null) =>
  useQuery({
    queryKey: ['trials', pairId],
    queryFn: () => api.trials.list(pairId!),
    enabled: pairId !== null,
  })
export const useTrial = (id: string) =>
  useQuery({ queryKey: ['trial', id], queryFn: () => api.trials.one(id) })

/** A change of a trial: the answer takes its place at once. */
export function useTrialChange<V>(id: string, run: (value: V) => Promise<Trial>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: run,
    onSuccess: (data) => {
      client.setQueryData(['trial', id], data)
      for (const key of ['trials', 'pair', 'versions', 'readiness'])
        void client.invalidateQueries({ queryKey: key === 'readiness' ? [key] : [key, data.pairId] })
    },
  })
}
export const useCase = (id: string) => useQuery({ queryKey: ['case', id], queryFn: () => api.cases.one(id) })

/** A change of a case: the answer replaces the case at once, everything that hangs on it is asked for anew. */
export function useCaseChange<V>(id: string, run: (value: V) => Promise<CaseDetail>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: run,
    onSuccess: (data) => {
      client.setQueryData(['case', id], data)
      void client.invalidateQueries({ queryKey: ['cases'] })
      void client.invalidateQueries({ queryKey: ['pair', data.pairId] })
      void client.invalidateQueries({ queryKey: ['versions', data.pairId] })
      void client.invalidateQueries({ queryKey: ['lessons'] })
      void client.invalidateQueries({ queryKey: ['readiness'] })
    },
  })
}
