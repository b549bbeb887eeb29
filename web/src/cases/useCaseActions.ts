import { useQueryClient } from '@tanstack/react-query'
import type { CaseDetail, MendChoice, PairDetail } from '@verimend/contract'
import type { PartFacts } from '@verimend/core/casework'
import type { SignState } from '@verimend/core/diagnosis'
import type { SignId } from '@verimend/core/knowledge'
import { useMemo } from 'react'
import { api, type LookAnswers, type PrintedFile, type RecordedOutcome } from '../api/client'
import { changed, keys } from '../api/keys'
import { KeptForLater } from '../api/outbox'
import { useCaseChange } from '../api/queries'

/** What a person does in a case. The functions stay the same while the case changes, so that only what changed is drawn anew. */
export interface CaseActions {
  /** Shown at once; the answer of the server then takes its place. */
  mark: (sign: SignId, state: SignState | null) => void
  noteLook: (answers: LookAnswers) => void
  setCannot: (steps: string[]) => void
  setLearns: (learns: boolean) => void
  setLongest: (longest: number | null) => void
  setPart: (partId: string | null, about?: PartFacts) => void
  addFile: (file: PrintedFile) => void
  removeFile: (id: string, then: () => void) => void
  withdraw: (attempt: number) => void
  /** Takes the change of an attempt that made things worse out of the recipe. */
  takeBack: (attempt: number) => void
  /** Counts what the recipe moved outside the case as its attempt. */
  takeUp: (base: number) => void
  /** Takes a closed case up again, with the signs that are back on a later part. */
  reopen: (back: SignId[]) => void
  /** Asks the server for everything anew. */
  refetch: () => void
}

/** The changes of a case that need no form of their own, and what went wrong with one of them. */
export function useCaseActions(kase: CaseDetail): { actions: CaseActions; failed: unknown } {
  const { id } = kase
  const client = useQueryClient()
  const sign = useCaseChange(
    id,
    (v: { sign: SignId; state: SignState | null }) => api.cases.sign(id, v.sign, v.state),
    changed.signs,
  )
  const look = useCaseChange(id, (v: LookAnswers) => api.cases.checks(id, v))
  const cannot = useCaseChange(id, (steps: string[]) => api.cases.cannot(id, steps))
  const learns = useCaseChange(id, (v: boolean) => api.cases.learns(id, v))
  const longest = useCaseChange(id, (v: number | null) => api.cases.longest(id, v))
  const part = useCaseChange(id, (v: { partId: string | null; about?: PartFacts }) =>
    api.cases.part(id, v.partId, v.about),
  )
  const { mutate: setPart } = part
  const addFile = useCaseChange(id, (f: PrintedFile) => api.cases.addFile(id, f))
  const removeFile = useCaseChange(id, (f: string) => api.cases.removeFile(id, f))
  const withdraw = useCaseChange(id, (n: number) => api.cases.withdraw(id, n))
  const takeBack = useCaseChange(id, (n: number) => api.cases.takeBack(id, n))
  const takeUp = useCaseChange(id, (base: number) => api.cases.takeUp(id, { from: 'recipe', base }))
  const reopen = useCaseChange(id, (back: SignId[]) => api.cases.reopen(id, back))
  const mutations = [
    sign,
    look,
    cannot,
    learns,
    longest,
    part,
    addFile,
    removeFile,
    withdraw,
    takeBack,
    takeUp,
    reopen,
  ]
  // the functions stay the same over renders, the mutations around them do not
  const { mutate: markSign } = sign
  const { mutate: remove } = removeFile
  const { mutate: open } = reopen
  const actions = useMemo<CaseActions>(
    () => ({
      mark(s, state) {
        const key = keys.cases.one(id)
        const before = client.getQueryData<CaseDetail>(key)
        if (before) {
          const { [s]: _, ...others } = before.signs
          client.setQueryData<CaseDetail>(key, {
            ...before,
            signs: state === null ? others : { ...others, [s]: state },
          })
        }
        markSign(
          { sign: s, state },
          {
            onError: (e) => {
              if (!(e instanceof KeptForLater)) void client.invalidateQueries({ queryKey: key })
            },
          },
        )
      },
      noteLook: look.mutate,
      setCannot: cannot.mutate,
      setLearns: learns.mutate,
      setLongest: longest.mutate,
      setPart: (partId, about) => setPart({ partId, about }),
      addFile: addFile.mutate,
      removeFile: (file, then) => remove(file, { onSuccess: then }),
      withdraw: withdraw.mutate,
      takeBack: takeBack.mutate,
      takeUp: takeUp.mutate,
      reopen: open,
      refetch: () => void changed.everything(client),
    }),
    [
      id,
      client,
      markSign,
      look.mutate,
      cannot.mutate,
      learns.mutate,
      longest.mutate,
      setPart,
      addFile.mutate,
      remove,
      withdraw.mutate,
      takeBack.mutate,
      takeUp.mutate,
      open,
    ],
  )
  return {
    actions,
    failed: mutations.find((m) => m.error && !(m.error instanceof KeptForLater))?.error ?? null,
  }
}

/** The changes of a case that a form waits for. */
export function useAttempts(id: string, pair: PairDetail, rev: number) {
  return {
    begin: useCaseChange(id, (mends: MendChoice[]) => api.cases.attempt(id, pair.current, mends)),
    record: useCaseChange(id, ({ number, ...outcome }: RecordedOutcome & { number: number }) =>
      api.cases.record(id, number, outcome),
    ),
    close: useCaseChange(id, (keep: number) => api.cases.close(id, rev, keep)),
  }
}
