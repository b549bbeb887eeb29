import { chosenPair } from '../pairs/chosenPair'
import type { AskedCases } from './client'
import { query, queryClient } from './queries'

/** The open cases that the bench shows. */
export const ON_BENCH: AskedCases = { status: 'open', limit: 24 }

type Asked = Parameters<typeof queryClient.prefetchQuery>[0]
/** Nothing waits for what is asked ahead; what fails is asked for again, and told, by the screen. */
const ask = (...queries: unknown[]) =>
  queries.forEach((asked) => void queryClient.prefetchQuery(asked as Asked))

/** The pair that the screens are read in, by the rule of PairContext. */
async function currentPair(): Promise<string | null> {
  const chosen = chosenPair.read()
  if (chosen) return chosen
  const [first] = await queryClient.ensureQueryData(query.pairs())
  return first?.id ?? null
}
const ofPair = (...queries: ((pairId: string) => unknown)[]) =>
  void currentPair().then(
    (id) => id && ask(...queries.map((asked) => asked(id))),
    () => undefined,
  )

/** Asks for what a screen will show, while its code is still on the way. */
export const ahead = {
  everywhere() {
    ask(query.pairs(), query.links())
    ofPair(query.pair)
  },
  bench: () => ask(query.cases(ON_BENCH), query.filaments(), query.machines(), query.readiness({})),
  cases: () => ask(query.cases({}), query.filaments(), query.machines()),
  case(id: string) {
    ofPair(query.lessons, query.trials)
    void queryClient.ensureQueryData(query.case(id)).then(
      ({ pairId }) => ask(query.pair(pairId), query.lessons(pairId), query.trials(pairId)),
      () => undefined,
    )
  },
  trials() {
    ofPair(query.trials, (pairId) => query.readiness({ pairId }))
  },
  trial(id: string) {
    ask(query.trialPhotos(id))
    void queryClient.ensureQueryData(query.trial(id)).then(
      ({ pairId }) => ask(query.pair(pairId), query.trials(pairId)),
      () => undefined,
    )
  },
  newTrial: () => ofPair(query.trials),
  parts: () => ask(query.parts()),
  part: (id: string) => ask(query.part(id)),
  paths: () => ofPair(query.filesOfPair),
  shelf: () => ask(query.filaments()),
  machines: () => ask(query.machines()),
}
