import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common'
import { Piscina } from 'piscina'
import { CONFIG, type Config } from '../config'
import type { JobInput, JobName, JobOutput } from './tasks'

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
  run<Name extends JobName>(
    name: Name,
    input: JobInput<Name>,
    signal?: AbortSignal,
  ): Promise<JobOutput<Name>> {
    return this.threads.run({ name, input }, { signal }) as Promise<JobOutput<Name>>
  }

  async onApplicationShutdown(): Promise<void> {
    await this.threads.destroy()
  }
}
