import { AsyncLocalStorage } from 'node:async_hooks'
import { Sequelize } from 'sequelize'

const store = new AsyncLocalStorage<Map<string, unknown>>()

/**
 * What Sequelize keeps the running transaction in, so that everything asked for inside it goes through its connection
 * without being told: the contract of its `useCLS`, on Node's own storage.
 */
const namespace = {
  get: (key: string): unknown => store.getStore()?.get(key),
  set: (key: string, value: unknown): void => void store.getStore()?.set(key, value),
  run: (work: (context: unknown) => void): void => {
    store.run(new Map(store.getStore() ?? []), () => work(store.getStore()))
  },
  bind: <F extends (...given: never[]) => unknown>(work: F): F =>
    AsyncLocalStorage.bind(work) as unknown as F,
}
Sequelize.useCLS(namespace)

/** Whether a transaction is running here: what it reads is its own. */
export const inTransaction = (): boolean => namespace.get('transaction') != null
