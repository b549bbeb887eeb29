/** Why a program cannot be laid on a machine. */
export type PlanFault = 'too-wide' | 'too-tall' | 'too-many-layers'

/** What was to be laid does not fit the machine. */
export class PlanError extends Error {
  constructor(readonly code: PlanFault) {
    super(code)
    this.name = 'PlanError'
  }
}
