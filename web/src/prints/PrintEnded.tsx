import type { Print } from '@verimend/contract'
import { useEffect } from 'react'
import { useNavigate } from 'react-router'
import { useNotice } from '../components/useNotice'

/** Says that a print has ended, and leads to it. */
export default function PrintEnded({ print }: { print: Print }) {
  const tell = useNotice()
  const navigate = useNavigate()
  useEffect(() => {
    tell({
      key: print.id,
      title: print.state === 'done' ? `${print.name} is done.` : `${print.name} has failed.`,
      description: print.reason ?? undefined,
      seconds: 10,
      action: { label: 'Look at it', run: () => void navigate(`/prints/${print.id}`) },
    })
    // once for each that ended
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [print])
  return null
}
