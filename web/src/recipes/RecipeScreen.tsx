import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Input, Segmented, Select } from 'antd'
import {
  GRADES,
  GROUPS,
  SETTING_KEYS,
  bareText,
  checkRecipe,
  deriveGraded,
  differences,
  figure,
  gradedKeys,
  inheritedIn,
  pinsOf,
  settingApplies,
  settingOf,
  valuesOf,
  type Grade,
  type RecipeValues,
  type SettingKey,
} from '@verimend/core'
import type { PairDetail, RecipeVersion } from '@verimend/contract'
import { Fragment, useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import { ApiProblem, api, type RecipeEdits } from '../api/client'
import { usePair, usePairs, useVersion, useVersions } from '../api/queries'
import { usePairOf } from '../pairs/usePairOf'
import { useCurrentPair } from '../pairs/PairContext'
import { ago, today } from '../parts/format'
import { Empty, Loaded, Problem } from '../parts/Problem'
import { useUndo } from '../parts/useUndo'
import { Disputes } from './Disputes'
import { History } from './History'
import { Loads } from './Loads'
import { RelativeDialog } from './RelativeDialog'
import { SettingRow } from './SettingRow'
import { ExportMenu, ImportButton } from './TakeAlong'
import { editFault, useDraft } from './useDraft'
import { Warnings } from './Warnings'

export default function RecipeScreen() {
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId)
  if (!pairId)
    return (
      <Empty action={<ImportButton />}>
        Choose a pair above: its recipe is derived at once. Or take a recipe file in.
      </Empty>
    )
  return <Loaded query={pair}>{(p) => <Recipe key={p.id} pair={p} />}</Loaded>
}

/** What a recipe can be held against: the derived start, a version, another pair. */
function useOther(
  pair: PairDetail,
  against: string,
  grade: Grade,
): { label: string; values: RecipeValues } | null {
  const version = against.startsWith('v') ? Number(against.slice(1)) : null
  const pairId = against.startsWith('p') ? against.slice(1) : null
  const v = useVersion(pair.id, version)
  const p = usePair(pairId)
  const { machine } = pair.machine
  const { filament } = pair.filament
  const start = useMemo(
    () => (against === 'start' ? deriveGraded({ machine, filament }) : null),
    [against, machine, filament],
  )
  if (start) return { label: 'Derived start', values: valuesOf(start, grade) }
  if (version !== null && v.data) return { label: `Version ${version}`, values: valuesOf(v.data, grade) }
  if (pairId && p.data)
    return {
      label: `${p.data.filament.filament.name}, ${p.data.machine.machine.name}`,
      values: valuesOf(p.data.version, grade),
    }
  return null
}

/** Read fast, edit in place with everything that follows recomputed, kept as versions. */
function Recipe({ pair }: { pair: PairDetail }) {
  const client = useQueryClient()
  const undo = useUndo()
  const [params, setParams] = useSearchParams()
  const find = params.get('find') ?? ''
  const against = params.get('against') ?? ''
  const grade: Grade = GRADES.find((g) => g === params.get('grade')) ?? 'standard'
  const put = (name: string, value: string) =>
    setParams(
      (old) => {
        const next = new URLSearchParams(old)
        if (value) next.set(name, value)
        else next.delete(name)
        return next
      },
      { replace: true },
    )
  const [onlyApart, setOnlyApart] = useState(false)
  const [startingFrom, setStartingFrom] = useState(false)
  const { draft, dirty, current, live, edit, measure, setReason, rebase, drop } = useDraft(pair)
  const { machine } = pair.machine
  const { filament } = pair.filament
  const values = useMemo(() => valuesOf(live, grade), [live, grade])
  const stood = useMemo(() => valuesOf(current, grade), [current, grade])
  const other = useOther(pair, against, grade)
  const warnings = useMemo(
    () => checkRecipe({ machine, filament, values, today: today(), part: pair.lastPart }),
    [machine, filament, values, pair.lastPart],
  )
  const stale = useMemo(
    () =>
      differences(
        current.values,
        deriveGraded({
          machine,
          filament,
          relative: inheritedIn(current.values),
          pins: pinsOf(current.values),
          variantPins: { fine: current.variants.fine.pins, coarse: current.variants.coarse.pins },
        }).values,
      ),
    [current, machine, filament],
  )
  const graded = useMemo(() => gradedKeys(live.values), [live.values])

  const saved = (version: RecipeVersion, text: string, before: number) => {
    drop(version.number)
    void client.invalidateQueries({ queryKey: ['pair', pair.id] })
    void client.invalidateQueries({ queryKey: ['versions', pair.id] })
    void client.invalidateQueries({ queryKey: ['readiness'] })
    undo(text, () => {
      void api.pairs.restore(pair.id, version.number, before).then((v) => {
        drop(v.number)
        return client.invalidateQueries()
      })
    })
  }
  const save = useMutation({
    mutationFn: (edits: Partial<RecipeEdits>) =>
      api.pairs.change(pair.id, {
        base: dirty ? draft.base : pair.current,
        set: {},
        reason: draft.reason,
        ...edits,
      }),
    onSuccess: (v) => {
      setStartingFrom(false)
      saved(v, `Version ${v.number} is kept.`, pair.current)
    },
  })
  const goBack = useMutation({
    mutationFn: (number: number) => api.pairs.restore(pair.id, pair.current, number),
    onSuccess: (v, number) => saved(v, `Version ${number} is back, as version ${v.number}.`, pair.current),
  })
  const conflict =
    save.error instanceof ApiProblem && save.error.problem.status === 409
      ? (save.error.problem.current as RecipeVersion)
      : null
  const moved = dirty && draft.base !== pair.current && !conflict
  const faults = GRADES.flatMap((g) =>
    (Object.keys(draft.edits[g]) as SettingKey[]).filter((k) => editFault(k, draft.edits[g][k], machine)),
  )
  const keep = () => {
    const { fine, standard, coarse } = draft.edits
    save.mutate({
      set: standard,
      ...(Object.keys(fine).length && { fine }),
      ...(Object.keys(coarse).length && { coarse }),
      ...(Object.keys(draft.measured).length && { measured: draft.measured }),
    })
  }

  const words = find.toLowerCase().split(/\s+/).filter(Boolean)
  const edits = draft.edits[grade]
  const shown = (key: SettingKey) => {
    if (grade !== 'standard' && !graded.includes(key)) return false
    const s = settingOf(key)
    const text = `${s.label} ${s.what} ${key}`.toLowerCase()
    if (!words.every((w) => text.includes(w))) return false
    if (onlyApart && other) return values[key].value !== other.values[key]?.value || key in edits
    return true
  }
  const follow = dirty
    ? GRADES.flatMap((g) =>
        differences(valuesOf(current, g), valuesOf(live, g))
          .filter((d) => !(d.key in draft.edits[g]) && (g === 'standard' || graded.includes(d.key)))
          .map((d) => ({ ...d, grade: g })),
      ).filter((d) => d.grade === grade)
    : []
  return (
    <>
      <div className="pagehead">
        <h1>Recipe</h1>
        <span className="tag">version {pair.current}</span>
        <span className="faint">{ago(pair.version.createdAt)}</span>
        <span className="grow" />
        <Button onClick={() => setStartingFrom(true)}>Start from a relative</Button>
        <ImportButton />
        <ExportMenu pair={pair} grade={grade} />
      </div>
      <div className="row toolrow">
        <Segmented
          value={grade}
          onChange={(g) => put('grade', g === 'standard' ? '' : g)}
          options={GRADES.map((g) => ({
            value: g,
            label: `${g[0].toUpperCase()}${g.slice(1)} ${figure(Number(valuesOf(live, g).layerHeight.value), 3)}\u2009mm`,
          }))}
        />
        <Against pair={pair} value={against} onChange={(v) => put('against', v)} />
        {other && (
          <Segmented
            value={onlyApart ? 'apart' : 'all'}
            onChange={(v) => setOnlyApart(v === 'apart')}
            options={[
              { value: 'all', label: 'All' },
              { value: 'apart', label: 'Only what differs' },
            ]}
          />
        )}
        <span className="grow" />
        <Input
          allowClear
          placeholder="Find a setting"
          aria-label="Find a setting"
          value={find}
          onChange={(e) => put('find', e.target.value)}
          style={{ width: 190 }}
        />
      </div>
      {grade !== 'standard' && (
        <p className="faint" style={{ marginBottom: 10 }}>
          These {graded.length} settings change with the layer height; the other{' '}
          {SETTING_KEYS.length - graded.length} are those of the standard recipe. What you set here holds for{' '}
          {grade} layers only.
        </p>
      )}
      {stale.length > 0 && !dirty && (
        <div className="notice caution row between" style={{ marginBottom: 12 }}>
          <span>
            Roll, machine or card have changed since this version: {stale.length}{' '}
            {stale.length === 1 ? 'value' : 'values'} would be derived differently (
            {stale
              .slice(0, 3)
              .map((d) => settingOf(d.key).label)
              .join(', ')}
            {stale.length > 3 ? ' …' : ''}).
          </span>
          <Button size="small" loading={save.isPending} onClick={() => save.mutate({})}>
            Derive anew
          </Button>
        </div>
      )}
      <div className="withside">
        <div className="sheet tablewrap">
          <table className={other ? 'plain recipe comparing' : 'plain recipe'}>
            <thead>
              <tr>
                <th>Setting</th>
                <th className="num">Value</th>
                {other && <th className="num wrap">{other.label}</th>}
                <th className="unitcol">Unit, share</th>
                <th className="whycol">Why</th>
              </tr>
            </thead>
            <tbody>
              {GROUPS.map((g) => {
                const keys = SETTING_KEYS.filter((k) => settingOf(k).group === g.id && shown(k))
                if (!keys.length) return null
                return (
                  <Fragment key={g.id}>
                    <tr>
                      <th colSpan={other ? 5 : 4} scope="rowgroup" className="group">
                        {g.label}
                      </th>
                    </tr>
                    {keys.map((k) => (
                      <SettingRow
                        key={k}
                        name={k}
                        resolved={values[k]}
                        before={stood[k].value}
                        values={values}
                        nozzle={pair.nozzle}
                        off={!settingApplies(k, values, machine)}
                        typed={edits[k]}
                        plusMinus={grade === 'standard' ? draft.measured[k] : undefined}
                        fault={editFault(k, edits[k], machine)}
                        warning={warnings.find((w) => w.keys.includes(k) && !pair.meant.includes(w.print))}
                        other={other?.values[k]}
                        comparing={!!other}
                        readOnly={false}
                        canMeasure={grade === 'standard'}
                        onEdit={(key, value) => edit(grade, { [key]: value })}
                        onMeasure={measure}
                      />
                    ))}
                  </Fragment>
                )
              })}
            </tbody>
          </table>
          {!SETTING_KEYS.some(shown) && (
            <Empty>{find ? 'No setting of that name.' : 'Nothing differs.'}</Empty>
          )}
        </div>
        <aside className="stack side">
          {dirty && (
            <section className="sheet stack" aria-label="Changes not kept yet">
              <h2>Not kept yet</h2>
              <ul className="changes">
                {GRADES.flatMap((g) =>
                  (Object.keys(draft.edits[g]) as SettingKey[]).map((k) => (
                    <li key={`${g}${k}`}>
                      <span>
                        {settingOf(k).label}
                        {g !== 'standard' && <span className="faint">, {g}</span>}
                      </span>
                      <span className="figure">
                        {bareText(k, valuesOf(current, g)[k].value)} →{' '}
                        {draft.edits[g][k] === null ? 'derived' : bareText(k, draft.edits[g][k]!)}
                      </span>
                    </li>
                  )),
                )}
                {follow.slice(0, 8).map((d) => (
                  <li key={`f${d.key}`} className="faint">
                    <span>{settingOf(d.key).label} follows</span>
                    <span className="figure">
                      {bareText(d.key, d.from)} → {bareText(d.key, d.to)}
                    </span>
                  </li>
                ))}
                {follow.length > 8 && <li className="faint">and {follow.length - 8} more that follow</li>}
              </ul>
              <Input
                placeholder="Why? A few words for later"
                aria-label="Reason"
                maxLength={300}
                value={draft.reason}
                onChange={(e) => setReason(e.target.value)}
                onPressEnter={keep}
              />
              {(conflict || moved) && (
                <div className="notice caution stack" role="alert">
                  <span>
                    {conflict
                      ? `Version ${conflict.number} was kept in another window: “${conflict.reason}”`
                      : `Version ${pair.current} was made elsewhere while you edited version ${draft.base}.`}{' '}
                    Your changes are kept here.
                  </span>
                  {conflict && (
                    <ul className="changes">
                      {differences(current.values, conflict.values).map((d) => (
                        <li key={d.key}>
                          <span>{settingOf(d.key).label}</span>
                          <span className="figure">
                            {bareText(d.key, d.from)} → {bareText(d.key, d.to)}
                          </span>
                        </li>
                      ))}
                    </ul>
                  )}
                  <Button
                    size="small"
                    onClick={() => {
                      save.reset()
                      rebase(conflict?.number ?? pair.current)
                      void client.invalidateQueries({ queryKey: ['pair', pair.id] })
                      void client.invalidateQueries({ queryKey: ['versions', pair.id] })
                    }}
                  >
                    Lay mine over the newer version
                  </Button>
                </div>
              )}
              {save.error && !conflict && <Problem error={save.error} />}
              <div className="row">
                <Button
                  type="primary"
                  loading={save.isPending}
                  disabled={!!conflict || moved || faults.length > 0}
                  onClick={keep}
                >
                  Keep as version {pair.current + 1}
                </Button>
                <Button onClick={() => drop()}>Drop</Button>
              </div>
            </section>
          )}
          <Warnings pair={pair} warnings={warnings} onMend={(set) => edit(grade, set)} />
          <Loads values={values} />
          <Disputes machine={machine} filament={filament} />
          <History
            pair={pair}
            against={against.startsWith('v') ? Number(against.slice(1)) : null}
            onCompare={(n) => put('against', n === null ? '' : `v${n}`)}
            onBack={(n) => goBack.mutate(n)}
            busy={goBack.isPending}
          />
        </aside>
      </div>
      {startingFrom && (
        <RelativeDialog
          pair={pair}
          busy={save.isPending}
          onChoose={(relative) => save.mutate({ relative })}
          onClose={() => setStartingFrom(false)}
        />
      )}
    </>
  )
}

/** Chooses what the recipe is held against. */
function Against({
  pair,
  value,
  onChange,
}: {
  pair: PairDetail
  value: string
  onChange: (v: string) => void
}) {
  const versions = useVersions(pair.id)
  const pairs = usePairs()
  const pairOf = usePairOf()
  return (
    <Select
      value={value || null}
      placeholder="Compare with"
      aria-label="Compare with"
      allowClear
      onChange={(v: string | undefined) => onChange(v ?? '')}
      style={{ width: 230 }}
      options={[
        { value: 'start', label: 'the derived start' },
        {
          label: 'Versions',
          options: (versions.data ?? [])
            .filter((v) => v.number !== pair.current)
            .map((v) => ({ value: `v${v.number}`, label: `version ${v.number}: ${v.reason}` })),
        },
        {
          label: 'Other pairs',
          options: (pairs.data ?? [])
            .filter((p) => p.id !== pair.id)
            .map((p) => ({ value: `p${p.id}`, label: pairOf(p.id)?.label ?? '' })),
        },
      ].filter((o) => o.options === undefined || o.options.length > 0)}
    />
  )
}
