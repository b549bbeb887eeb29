import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common'
import { Piscina } from 'piscina'
import { CONFIG, type Config } from '../config'
import type { TaskInput, TaskName, TaskOutput } from './tasks'

/** Runs what is too heavy for the event loop in threads of its own. */
@Injectable()
export class Compute implements OnApplicationShutdown {
  private readonly threads: Piscina

  constructor(@Inject(CONFIG) config: Config) {
    this.threads = new Piscina({
      filename: config.worker,
      minThreads: 1,
      maxThreads: 2,
      idleTimeout: 30_000,
      atomics: 'disabled',
    })
  }

  /**
   * Runs a task.
   * @param signal ends it when nobody waits for its answer any more
   */
  run<Name extends TaskName>(
    name: Name,
    input: TaskInput<Name>,
    signal?: AbortSignal,
  ): Promise<TaskOutput<Name>> {
    return this.threads.run({ name, input }, { signal }) as Promise<TaskOutput<Name>>
  }

  async onApplicationShutdown(): Promise<void> {
    await this.threads.destroy()
  }
}
