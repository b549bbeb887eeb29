import { InputNumber, Segmented, Select } from 'antd'
import type { BedScrews, Machine } from '@verimend/core/machine'
import { PITCHES, usualScrews } from '@verimend/core/measurement'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** The screws under a bed: how many, their thread, which way they turn, and where they stand. */
export function ScrewsField({
  value = null,
  onChange,
  bed,
}: {
  /** Given by the form. */
  value?: BedScrews | null
  onChange?: (value: BedScrews | null) => void
  bed: Pick<Machine['bed'], 'shape' | 'width' | 'depth'>
}) {
  const set = (change: Partial<BedScrews>) => value && onChange?.({ ...value, ...change })
  return (
    <div className={ui.stack} style={{ gap: 8 }}>
      <Segmented<number>
        aria-label="Screws under the bed"
        value={value?.screws.length ?? 0}
        onChange={(count) =>
          onChange?.(
            count
              ? {
                  screws: usualScrews({ bed: bed as Machine['bed'] }, count as 3 | 4),
                  pitch: value?.pitch ?? PITCHES.M4,
                  clockwise: value?.clockwise ?? 'up',
                }
              : null,
          )
        }
        options={[
          { value: 0, label: 'not described' },
          { value: 3, label: '3 screws' },
          { value: 4, label: '4 screws' },
        ]}
      />
      {value && (
        <>
          <div className={ui.row}>
            <Select
              aria-label="Thread of the screws"
              value={value.pitch}
              onChange={(pitch) => set({ pitch })}
              options={Object.entries(PITCHES).map(([name, pitch]) => ({
                value: pitch,
                label: `${name}, ${pitch} mm a turn`,
              }))}
              style={{ width: 180 }}
            />
            <Select
              aria-label="Clockwise from below"
              value={value.clockwise}
              onChange={(clockwise) => set({ clockwise })}
              options={[
                { value: 'up' as const, label: 'clockwise: bed up' },
                { value: 'down' as const, label: 'clockwise: bed down' },
              ]}
              style={{ width: 180 }}
            />
          </div>
          {value.screws.map((s, i) => (
            <div key={s.name} className={ui.row}>
              <span className={ui.small} style={{ width: 90 }}>
                {s.name}
              </span>
              {(['x', 'y'] as const).map((axis) => (
                <InputNumber
                  key={axis}
                  size="small"
                  aria-label={`${s.name}, ${axis.toUpperCase()}`}
                  value={Math.round(s[axis] * 10) / 10}
                  onChange={(v) =>
                    v !== null &&
                    set({ screws: value.screws.map((o, k) => (k === i ? { ...o, [axis]: v } : o)) })
                  }
                  prefix={axis.toUpperCase()}
                  suffix="mm"
                  style={{ width: 118 }}
                />
              ))}
            </div>
          ))}
          <p className={clsx(ui.faint, ui.small)}>
            Turned from below, where the knobs are. Places from the bed’s origin.
          </p>
        </>
      )}
    </div>
  )
}
