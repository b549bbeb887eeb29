import { Input, Modal, type InputRef } from 'antd'
import { PROCEDURES, SIGN_IDS, SUSPECT_IDS, otherWords, signOf, suspectOf } from '@verimend/core/knowledge'
import { SETTING_KEYS } from '@verimend/core/recipe'
import { holdsWords, settingLabel, settingSearchText } from '@verimend/core/words'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { useCases, useFilaments, useMachines } from '../api/queries'
import { useSettled } from '../components/useSettled'
import { useMode } from '../theme/mode'
import { SCREENS } from '../screens'
import ui from '../components/ui.module.css'
import styles from './CommandSearch.module.css'

interface Hit {
  label: string
  kind: string
  /** What it is found by besides. */
  also?: string
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
      ...SCREENS.map((s) => ({ label: s.label, kind: 'screen', run: go(s.path) })),
      {
        label: 'Storeroom',
        kind: 'screen',
        also: 'backup restore removed deleted licences',
        run: go('/storeroom'),
      },
      { label: 'New case', kind: 'do', run: go('/cases/new') },
      { label: 'Add a roll', kind: 'do', run: go('/shelf/new') },
      { label: 'Add a machine', kind: 'do', run: go('/machines/new') },
      { label: 'Light or dark theme', kind: 'do', run: () => (toggle(), onClose()) },
      { label: 'List of keys', kind: 'do', run: onKeys },
      ...(search ? (cases.data?.cases ?? []) : []).map((c) => ({
        label: c.part,
        kind: 'case',
        run: go(`/cases/${c.id}`),
      })),
      ...(filaments.data ?? []).map((f) => ({
        label: f.filament.name,
        kind: 'roll',
        run: go(`/shelf/${f.id}`),
      })),
      ...(machines.data ?? []).map((m) => ({
        label: m.machine.name,
        kind: 'machine',
        run: go(`/machines/${m.id}`),
      })),
      ...SETTING_KEYS.map((k) => ({
        label: settingLabel(k),
        kind: 'setting',
        also: settingSearchText(k),
        run: go(`/recipes?find=${encodeURIComponent(settingLabel(k))}`),
      })),
      ...SIGN_IDS.map((s) => ({
        label: signOf(s).name,
        kind: 'sign',
        also: otherWords(s).join(' '),
        run: go(`/handbook/signs#${s}`),
      })),
      ...SUSPECT_IDS.map((s) => ({
        label: suspectOf(s).name,
        kind: 'suspect',
        also: otherWords(s).join(' '),
        run: go(`/handbook/suspects#${s}`),
      })),
      ...Object.entries(PROCEDURES).map(([id, p]) => ({
        label: p.name,
        kind: 'procedure',
        also: otherWords(id).join(' '),
        run: go(`/handbook/procedures#${id}`),
      })),
    ]
  }, [search, cases.data, filaments.data, machines.data, navigate, onClose, onKeys, toggle])
  // what is called so comes before what is only also known by it
  const found = all.filter((h) => holdsWords(`${h.label} ${h.kind} ${h.also ?? ''}`, text))
  const named = (h: Hit) => holdsWords(`${h.label} ${h.kind}`, text)
  const hits = [...found.filter(named), ...found.filter((h) => !named(h))].slice(0, MOST_HITS)
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
            key={`${h.kind}${h.label}${i}`}
            id={`hit-${i}`}
            role="option"
            aria-selected={i === chosen}
            onMouseEnter={() => setAt(i)}
            onClick={h.run}
          >
            <span className={ui.wrap}>{h.label}</span>
            <span className={ui.faint}>{h.kind}</span>
          </li>
        ))}
        {!hits.length && <li className={ui.faint}>Nothing of that name. Try a shorter word.</li>}
      </ul>
    </Modal>
  )
}
