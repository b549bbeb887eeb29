import { changeReason } from '../casework/notebook'
import type { Change } from '../diagnosis/advice/mends'
import type { AdvisedStep } from '../diagnosis/advice/steps'
import { lookName, signName } from './names'
import { say } from './say'

/** What a mend changes: "Retraction length 2 mm → 5 mm", or what is done by hand. */
export const changeText = (change: Change): string => say(changeReason(change))

/** What an advised step is called. */
export function stepName(step: AdvisedStep): string {
  switch (step.kind) {
    case 'look':
      return signName(step.sign)
    case 'check':
      return lookName(step.check)
    case 'trial':
      return lookName(step.trial)
    case 'mend':
      return changeText(step.change)
  }
}
