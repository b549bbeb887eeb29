import {
  DISPUTE_IDS,
  checkOrTrial,
  decideDispute,
  disputeOf,
  type Filament,
  type Machine,
} from '@verimend/core'

/** Questions on which practice disagrees, with the side this pair falls on and what would decide. */
export function Disputes({ machine, filament }: { machine: Machine; filament: Filament }) {
  const open = DISPUTE_IDS.map((id) => ({
    id,
    d: disputeOf(id),
    v: decideDispute(id, machine, filament),
  })).filter((x) => x.v)
  return (
    <section className="sheet stack" aria-label="Where practice disagrees">
      <h2>Where practice disagrees</h2>
      {open.map(({ id, d, v }) => (
        <details key={id}>
          <summary>
            {d.question}: <strong>{v!.side === null ? 'in the middle' : d.sides[v!.side]}</strong>
          </summary>
          <p className="faint small">{v!.because}</p>
          <p className="faint small">
            {v!.side === null
              ? `One side: ${d.sides[0]}. The other: ${d.sides[1]}.`
              : `Others: ${d.sides[v!.side === 0 ? 1 : 0]}.`}{' '}
            What decides: {d.decides} {checkOrTrial(d.by).name} settles it in {checkOrTrial(d.by).minutes}{' '}
            min.
          </p>
        </details>
      ))}
    </section>
  )
}
