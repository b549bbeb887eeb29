import { Button, Popover, Progress } from 'antd'
import { useEffect, useSyncExternalStore } from 'react'
import { Link, useNavigate } from 'react-router'
import { useNotice } from '../components/useNotice'
import { jobs, type Job, type JobKind } from './jobs'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './work.module.css'

const DOING: Record<JobKind, string> = {
  reading: 'Reading',
  keeping: 'Keeping',
  sending: 'Sending',
  planning: 'Laying',
}
const DONE: Record<JobKind, string> = {
  reading: 'is read',
  keeping: 'is kept',
  sending: 'is sent',
  planning: 'is laid',
}
const NOT_DONE: Record<JobKind, string> = {
  reading: 'could not be read',
  keeping: 'could not be kept',
  sending: 'could not be sent',
  planning: 'could not be laid',
}
const percent = ({ share }: Job) => Math.round(100 * share)

/** Long work whose screen is not open: how far it is, a way to it and an end to it; and a word when it is done. */
export default function Tray() {
  const list = useSyncExternalStore(jobs.subscribe, jobs.all).filter((j) => !j.watched)
  const navigate = useNavigate()
  const tell = useNotice()
  useEffect(
    () =>
      jobs.onEnd(({ job, fault }) =>
        tell({
          key: `job-${job.slot}`,
          title: `${job.name} ${fault ? NOT_DONE[job.kind] : DONE[job.kind]}.`,
          description: fault instanceof Error ? fault.message : undefined,
          seconds: 10,
          action: { label: 'See it', run: () => void navigate(job.to) },
        }),
      ),
    [navigate, tell],
  )
  if (!list.length) return null
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      title="At work"
      content={
        <ul className={clsx(ui.plainlist, styles.tray)}>
          {list.map((j) => (
            <li key={j.slot} className={ui.stack} style={{ gap: 4 }}>
              <Link to={j.to} className={ui.wrap}>
                {j.name}
              </Link>
              <div className={ui.row}>
                <Progress
                  aria-label={`${DOING[j.kind]} ${j.name}`}
                  percent={percent(j)}
                  size="small"
                  style={{ flex: 1, minWidth: 100 }}
                />
                <Button size="small" onClick={() => jobs.cancel(j.slot)}>
                  Cancel
                </Button>
              </div>
            </li>
          ))}
        </ul>
      }
    >
      <Button size="small" data-testid="work-tray">
        {list.length === 1 ? `${DOING[list[0].kind]}, ${percent(list[0])} %` : `${list.length} at work`}
      </Button>
    </Popover>
  )
}
