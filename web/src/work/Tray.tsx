import { Button, Progress } from 'antd'
import { useEffect, useSyncExternalStore } from 'react'
import { useNavigate } from 'react-router'
import { TrayButton } from '../components/TrayButton'
import { useNotice } from '../components/useNotice'
import { jobs, type Job, type JobKind } from './jobs'
import ui from '../components/ui.module.css'

const DOING: Record<JobKind, string> = {
  reading: 'Reading',
  keeping: 'Keeping',
  sending: 'Sending',
  planning: 'Laying',
  changing: 'Changing',
}
const DONE: Record<JobKind, string> = {
  reading: 'is read',
  keeping: 'is kept',
  sending: 'is sent',
  planning: 'is laid',
  changing: 'is changed',
}
const NOT_DONE: Record<JobKind, string> = {
  reading: 'could not be read',
  keeping: 'could not be kept',
  sending: 'could not be sent',
  planning: 'could not be laid',
  changing: 'could not be changed',
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
    <TrayButton
      title="At work"
      testId="work-tray"
      items={list.map((j) => ({
        key: j.slot,
        name: j.name,
        to: j.to,
        progress: (
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
        ),
      }))}
    >
      {list.length === 1 ? `${DOING[list[0].kind]}, ${percent(list[0])} %` : `${list.length} at work`}
    </TrayButton>
  )
}
