import type { QueryClient, QueryKey } from '@tanstack/react-query'
import type { ListPrints } from '@verimend/contract'

/** What everything that is asked of the server is kept under. A key covers all that begin with it. */
export const keys = {
  health: ['health'],
  session: ['session'],
  devices: ['session', 'devices'],
  backups: ['backups'],
  removed: ['removed'],
  machines: ['machines'],
  filaments: ['filaments'],
  pairs: {
    all: ['pairs'],
    list: ['pairs', 'list'],
    readiness: ['pairs', 'readiness'],
    readinessOf: (asked: object) => ['pairs', 'readiness', asked],
    costs: (id?: string, version?: number, machine?: number, filament?: number) => [
      'costs',
      id,
      version,
      machine,
      filament,
    ],
    relatives: (machineId?: string, filamentId?: string) => ['pairs', 'relatives', machineId, filamentId],
    one: (id?: string | null) => ['pairs', 'one', id],
    versions: (id?: string | null) => ['pairs', 'versions', id],
    version: (id: string, number: number | null) => ['pairs', 'version', id, number],
  },
  cases: {
    all: ['cases'],
    list: ['cases', 'list'],
    listOf: (asked: object) => ['cases', 'list', asked],
    statistics: ['cases', 'list', 'statistics'],
    one: (id: string) => ['cases', 'one', id],
    lessonsOf: (pairId: string | null) => ['cases', 'lessons', pairId],
    lessons: ['cases', 'lessons'],
    filesOf: (pairId: string) => ['cases', 'files', pairId],
  },
  measurements: {
    all: ['measurements'],
    of: (machineId?: string, pairId?: string | null) => ['measurements', 'of', machineId, pairId],
    one: (id: string) => ['measurements', 'one', id],
  },
  parts: {
    list: ['parts', 'list'],
    one: (id: string) => ['parts', 'one', id],
  },
  prints: {
    all: ['prints'],
    of: (where: Partial<ListPrints>) => ['prints', 'of', where],
    one: (id: string) => ['prints', 'one', id],
    report: (id: string) => ['prints', 'report', id],
  },
  links: ['links'],
  trials: {
    all: ['trials'],
    ofPair: (pairId: string | null) => ['trials', 'of', pairId],
    one: (id: string) => ['trials', 'one', id],
    photos: (id: string) => ['trials', 'photos', id],
  },
} as const

const stale = (client: QueryClient, ...which: QueryKey[]) =>
  Promise.all(which.map((queryKey) => client.invalidateQueries({ queryKey }))).then(() => undefined)

/** After a change, what has to be asked for anew. Everything that writes goes through one of these. */
export const changed = {
  /** Recipes are derived from machines and rolls, and show their names. */
  machine: (client: QueryClient) => stale(client, keys.machines, keys.pairs.all),
  filament: (client: QueryClient) => stale(client, keys.filaments, keys.pairs.all),
  recipe: (client: QueryClient, pairId: string) =>
    stale(client, keys.pairs.one(pairId), keys.pairs.versions(pairId), keys.pairs.list, keys.pairs.readiness),
  /** A case was changed; its own answer is at hand already. */
  case: (client: QueryClient, pairId: string) =>
    stale(
      client,
      keys.cases.list,
      keys.cases.lessons,
      keys.cases.filesOf(pairId),
      keys.pairs.one(pairId),
      keys.pairs.versions(pairId),
      keys.pairs.readiness,
    ),
  /** Signs of a case that is open say nothing of its recipe or of other cases. */
  signs: (client: QueryClient) => stale(client, keys.cases.list),
  /** What was found for a case is its attempt. */
  measurement: (client: QueryClient) => stale(client, ['measurements', 'of'], keys.cases.all),
  part: (client: QueryClient) => stale(client, keys.parts.list),
  trial: (client: QueryClient, pairId: string) =>
    stale(
      client,
      keys.trials.ofPair(pairId),
      keys.cases.all,
      keys.pairs.one(pairId),
      keys.pairs.versions(pairId),
      keys.pairs.readiness,
    ),
  /** A print was sent or has ended. */
  prints: (client: QueryClient) => stale(client, ['prints', 'of']),
  links: (client: QueryClient) => stale(client, keys.links),
  /** Practice brings a machine, a roll, a pair and a case. */
  practice: (client: QueryClient) =>
    stale(client, keys.links, keys.machines, keys.filaments, keys.pairs.all, keys.cases.list),
  cases: (client: QueryClient) => stale(client, keys.cases.list, keys.cases.lessons),
  lessons: (client: QueryClient) => stale(client, keys.cases.lessons),
  pairs: (client: QueryClient) => stale(client, keys.pairs.list, keys.pairs.readiness),
  /** After a conflict: whatever it is, somebody else changed it. */
  everything: (client: QueryClient) => client.invalidateQueries(),
}
