import type { PairDetail } from '@verimend/contract'
import { STEPPED_IN_FILE } from '@verimend/core/trials'
import type { PathReading } from '@verimend/core/toolpath'
import { StepsForm } from '../trials/StepsForm'
import { jobs } from '../work/jobs'
import { keepFile } from '../workers/keepFile'

/** A path file with all its lines. */
export interface WholeFile {
  /** The file itself, or its address where it is kept. */
  source: File | string
  sha256: string
  /** The open case it belongs to. */
  caseId: string | null
}

/** A trial in the file at hand: bands of its height at stepped values, all else as it is. */
export function StepsInFile({
  whole: { source, sha256, caseId },
  name,
  reading,
  pair,
}: {
  whole: WholeFile
  name: string
  reading: PathReading
  pair: PairDetail
}) {
  return (
    <StepsForm
      title="Try it in steps up this file"
      about="Bands of its height get stepped values, every other line stays as it is. You print it and read the bands as a trial of this pair."
      choices={STEPPED_IN_FILE}
      pair={pair}
      height={reading.height}
      caseId={caseId}
      planOf={async ({ heights, ...plan }) => {
        // a trial is written anew from its file whenever it is taken
        if (source instanceof File)
          await jobs.run(
            { slot: `steps ${sha256}`, kind: 'keeping', name, to: '/paths' },
            (onShare, signal) => keepFile(source, sha256, onShare, signal),
          )
        return { ...plan, onFile: { name: name.slice(0, 200), sha256, ...heights } }
      }}
    />
  )
}
