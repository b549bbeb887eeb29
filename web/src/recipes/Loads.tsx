import { featureLoads, figure, type RecipeValues } from '@verimend/core'

/** What every feature asks of the hot end, as bars against the melt cap; the one that binds is marked. */
export function Loads({ values }: { values: RecipeValues }) {
  const loads = featureLoads(values)
  const most = Math.max(...loads.map((l) => l.share))
  const scale = Math.max(1, most)
  return (
    <section className="sheet stack" aria-label="Melt rate by feature">
      <div className="row between">
        <h2>Melt rate</h2>
        <span className="faint small">
          cap <span className="figure">{figure(Number(values.meltCap.value), 1)}</span> mm³/s
        </span>
      </div>
      <table className="plain loads">
        <thead>
          <tr>
            <th>Feature</th>
            <th className="num">mm³/s</th>
            <th>
              <span className="visually-hidden">Share of the cap</span>
            </th>
            <th className="num">feed mm/s</th>
          </tr>
        </thead>
        <tbody>
          {loads.map((l) => (
            <tr key={l.key} className={l.share === most ? 'binds' : undefined}>
              <td
                className="nowrap"
                title={`bead ${figure(l.width)} × ${figure(l.height)} mm, ${figure(l.area, 4)} mm²`}
              >
                {l.label}
              </td>
              <td className={`num figure${l.share > 1.001 ? ' fault' : ''}`}>{figure(l.rate, 2)}</td>
              <td>
                <svg
                  width="64"
                  height="10"
                  role="img"
                  aria-label={`${figure(l.share * 100, 0)} % of the cap`}
                >
                  <rect
                    x="0"
                    y="3"
                    width={(64 * l.share) / scale}
                    height="4"
                    className={l.share > 1.001 ? 'over' : 'under'}
                  />
                  <line x1={64 / scale} x2={64 / scale} y1="0" y2="10" className="caplines" />
                </svg>
              </td>
              <td className="num figure">{figure(l.feed, 2)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="faint small">
        {loads.find((l) => l.share === most)!.label} asks most: {figure(most * 100, 0)} % of what the hot end
        melts.
      </p>
    </section>
  )
}
