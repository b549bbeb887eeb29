import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Segmented } from 'antd'
import { useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { Problem } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import ui from '../components/ui.module.css'
import { newId } from '../api/ids'

type Kind = 'tube' | 'direct' | 'enclosed'

/** Offers a simulated machine with something wrong in it, to be found. */
export default function Practise() {
  const client = useQueryClient()
  const navigate = useNavigate()
  const { choose } = useCurrentPair()
  const [kind, setKind] = useState<Kind>('tube')
  const [hidden, setHidden] = useState(1)
  // asked for again after a lost answer, it is the same machine
  const id = useRef(newId())
  const start = useMutation({
    mutationFn: () => api.links.practise(id.current, kind, hidden),
    onSuccess: async ({ pairId, caseId }) => {
      id.current = newId()
      await changed.practice(client)
      choose(pairId)
      void navigate(`/cases/${caseId}`)
    },
  })
  return (
    <div className={ui.stack} style={{ gap: 10 }}>
      <div className={ui.row}>
        <Segmented<Kind>
          aria-label="What kind of machine"
          value={kind}
          onChange={setKind}
          options={[
            { value: 'tube', label: 'Open, tube-fed' },
            { value: 'direct', label: 'Open, direct' },
            { value: 'enclosed', label: 'Enclosed' },
          ]}
        />
        <Segmented<number>
          aria-label="How much is wrong"
          value={hidden}
          onChange={setHidden}
          options={[
            { value: 1, label: 'One thing wrong' },
            { value: 2, label: 'Two at once' },
          ]}
        />
        <Button type="primary" loading={start.isPending} onClick={() => start.mutate()}>
          Practise on it
        </Button>
      </div>
      {!!start.error && <Problem error={start.error} />}
    </div>
  )
}
