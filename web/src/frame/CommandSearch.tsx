import { Input, Modal, type InputRef } from 'antd'
import { PROCEDURES, SIGN_IDS, SUSPECT_IDS, searchWords } from '@verimend/core/knowledge'
import { PIECE_IDS, PIECES } from '@verimend/core/trials'
import { SETTING_KEYS, keysOf } from '@verimend/core/recipe'
import {
  finder,
  procedureFindable,
  settingFindable,
  settingLabel,
  signFindable,
  suspectFindable,
  type Findable,
} from '@verimend/core/words'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { useCases, useFilaments, useMachines } from '../api/queries'
import { useSettled } from '../components/useSettled'
import { useMode } from '../theme/mode'
import { SCREENS } from '../screens'
import ui from '../components/ui.module.css'
import styles from './CommandSearch.module.css'

interface Hit extends Findable {
  kind: string
  run: () => void
}

const MOST_HITS = 12

/** One field that finds screens, cases, rolls, machines, settings, signs, suspects and procedures. */
export default function CommandSearch({ onClose, onKeys }: { onClose: () => void; onKeys: () => void }) {
  const navigate = useNavigate()
  const filaments = useFilaments()
  const machines = useMachines()
  const { toggle } = useMode()
  const [text, setText] = useState('')
  // what is called by its kind is not searched for by it
  const words = text.split(/\s+/).filter((word) => !'case'.startsWith(word.toLowerCase()))
  const search = useSettled(words.join(' '), 200)
  const cases = useCases({ search, limit: MOST_HITS }, search !== '')
  const [at, setAt] = useState(0)
  const field = useRef<InputRef>(null)
  useEffect(() => field.current?.focus(), [])
  const all = useMemo<Hit[]>(() => {
    const go = (path: string) => () => {
      onClose()
      void navigate(path)
    }
    return [
      ...SCREENS.map((s) => ({ title: s.label, kind: 'screen', run: go(s.path) })),
      {
        title: 'Storeroom',
        kind: 'screen',
        also: ['backup', 'restore', 'removed', 'deleted', 'licences'],
        run: go('/storeroom'),
      },
      { title: 'New case', kind: 'do', run: go('/cases/new') },
      { title: 'Add a roll', kind: 'do', run: go('/shelf/new') },
      { title: 'Add a machine', kind: 'do', run: go('/machines/new') },
      { title: 'Light or dark theme', kind: 'do', run: () => (toggle(), onClose()) },
      { title: 'List of keys', kind: 'do', run: onKeys },
      ...(search ? (cases.data?.cases ?? []) : []).map((c) => ({
        title: c.part,
        kind: 'case',
        run: go(`/cases/${c.id}`),
      })),
      ...(filaments.data ?? []).map((f) => ({
        title: f.filament.name,
        kind: 'roll',
        run: go(`/shelf/${f.id}`),
      })),
      ...(machines.data ?? []).map((m) => ({
        title: m.machine.name,
        kind: 'machine',
        run: go(`/machines/${m.id}`),
      })),
      ...SETTING_KEYS.map((k) => ({
        ...settingFindable(k),
        kind: 'setting',
        run: go(`/recipes?find=${encodeURIComponent(settingLabel(k))}`),
      })),
      ...SIGN_IDS.map((s) => ({
        ...signFindable(s),
        kind: 'sign',
        run: go(`/handbook/signs#${s}`),
      })),
      ...SUSPECT_IDS.map((s) => ({
        ...suspectFindable(s),
        kind: 'suspect',
        run: go(`/handbook/suspects#${s}`),
      })),
      ...keysOf(PROCEDURES).map((id) => ({
        ...procedureFindable(id),
        kind: 'procedure',
        run: go(`/handbook/procedures#${id}`),
      })),
      ...PIECE_IDS.map((id) => ({
        title: PIECES[id].name,
        also: searchWords(id),
        text: PIECES[id].what,
        kind: 'trial',
        run: go('/trials'),
      })),
    ]
  }, [search, cases.data, filaments.data, machines.data, navigate, onClose, onKeys, toggle])
  // what a thing is counts as a word for it
  const find = useMemo(() => finder(all.map((h) => ({ ...h, also: [h.kind, ...(h.also ?? [])] }))), [all])
  const hits = (text.trim() ? find(text) : all).slice(0, MOST_HITS)
  const chosen = Math.min(at, hits.length - 1)
  return (
    <Modal
      open
      footer={null}
      closable={false}
      onCancel={onClose}
      width={520}
      styles={{ body: { padding: 0 } }}
    >
      <Input
        ref={field}
        value={text}
        placeholder="Search screens, cases, rolls, settings, signs"
        aria-label="Search"
        role="combobox"
        aria-expanded="true"
        aria-controls="search-hits"
        aria-activedescendant={chosen >= 0 ? `hit-${chosen}` : undefined}
        onChange={(e) => {
          setText(e.target.value)
          setAt(0)
        }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault()
            setAt((chosen + (e.key === 'ArrowDown' ? 1 : hits.length - 1)) % Math.max(1, hits.length))
          } else if (e.key === 'Enter') hits[chosen]?.run()
        }}
      />
      <ul id="search-hits" role="listbox" aria-label="Hits" className={styles.hits}>
        {hits.map((h, i) => (
          <li
            key={`${h.kind}${h.title}${i}`}
            id={`hit-${i}`}
            role="option"
            aria-selected={i === chosen}
            onMouseEnter={() => setAt(i)}
            onClick={h.run}
          >
            <span className={ui.wrap}>{h.title}</span>
            <span className={ui.faint}>{h.kind}</span>
          </li>
        ))}
        {!hits.length && <li className={ui.faint}>Nothing of that name. Try a shorter word.</li>}
      </ul>
    </Modal>
  )
}
