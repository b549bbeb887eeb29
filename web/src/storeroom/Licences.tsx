import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Loaded } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './storeroom.module.css'

interface Licence {
  name: string
  version: string
  licence: string
  text: string
}

/** What the application is made of, and the words it is given under. */
export function Licences() {
  const [open, setOpen] = useState(false)
  return (
    <details className={ui.sheet} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Licences of what Verimend is made of</summary>
      {open && <List />}
    </details>
  )
}

function List() {
  const licences = useQuery({
    queryKey: ['licences'],
    queryFn: async () => (await (await fetch('/licences.json')).json()) as Licence[],
    staleTime: Infinity,
  })
  return (
    <Loaded query={licences}>
      {(list) => (
        <div className={ui.stack} style={{ marginTop: 10 }}>
          <p>Verimend itself is given under the MIT licence. It is made of {list.length} packages:</p>
          <ul className={clsx(ui.plainlist, styles.licences)}>
            {list.map((l) => (
              <li key={`${l.name} ${l.version}`}>
                {l.text ? (
                  <details>
                    <summary>
                      {l.name} <span className={ui.faint}>{`${l.version}, ${l.licence}`}</span>
                    </summary>
                    <pre className={styles.text}>{l.text}</pre>
                  </details>
                ) : (
                  <>
                    {l.name} <span className={ui.faint}>{`${l.version}, ${l.licence}`}</span>
                  </>
                )}
              </li>
            ))}
          </ul>
        </div>
      )}
    </Loaded>
  )
}
