import { useMutation, useQuery } from '@tanstack/react-query'
import { api, jobFile, jobPicture, jobZip } from '../../api/client'
import { jobFramesQuery, outboxQuery } from '../../api/queries'
import type { ChangeJob, FrameOfJob, Job } from '../../api/types'
import { Button } from '../../ui/Button'

const size = (bytes: number) => (bytes < 1e6 ? `${Math.ceil(bytes / 1e3)} kB` : bytes < 1e9 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(2)} GB`)

const time = (seconds: number) => (seconds < 90 ? `${Math.ceil(seconds)} s` : seconds < 5400 ? `${Math.ceil(seconds / 60)} min` : `${(seconds / 3600).toFixed(1)} h`)

const count = (job: Job) => job.range.last - job.range.first + 1

/** How far a job has come, in words. */
function standing(job: Job): string {
  const of = `${job.done} of ${count(job)} written`
  const failed = job.failed > 0 ? `, ${job.failed} failed` : ''
  switch (job.state) {
    case 'running':
      return `${of}${failed}${job.left != null ? `, about ${time(job.left)} left` : ''}`
    case 'paused':
      return `${of}${failed}, paused${job.taken > 0 ? ' once what is begun is finished' : ''}`
    case 'stopped':
      return `${of}${failed}, stopped`
    case 'done':
      return job.failed > 0 ? `${of}${failed}` : `All ${count(job)} written, ${size(job.bytes)}`
  }
}

/** What went wrong, each sentence once with its frames. */
function troubles(frames: FrameOfJob[]): { sentence: string; frames: number[] }[] {
  const of = new Map<string, number[]>()
  for (const f of frames) if (f.error) of.set(f.error, [...(of.get(f.error) ?? []), f.frame])
  return [...of].map(([sentence, list]) => ({ sentence, frames: list }))
}

/** How many of a job's frames lie in the folder that it names, and what keeps the others from it. */
function InFolder({ job, folder }: { job: Job; folder: string }) {
  const waits = job.put < job.done
  const out = useQuery({ ...outboxQuery, refetchInterval: waits ? 3000 : false }).data
  return (
    <div className="figures truncate text-dim" data-put={job.put} title={out?.folder ? `${out.folder}/${folder}` : folder}>
      {job.put} in {folder}
      {waits && out?.trouble && <span className="whitespace-normal text-warn"> {out.trouble}</span>}
    </div>
  )
}

/** A range of frames that is written, with its pictures as they come. */
export function JobCard({ job }: { job: Job }) {
  const frames = useQuery(jobFramesQuery(job)).data ?? []
  const change = useMutation({ mutationFn: (to: ChangeJob) => api.changeJob(job.id, to) })
  const remove = useMutation({ mutationFn: () => api.removeJob(job.id) })
  const button = (label: string, to: ChangeJob, hint: string) => (
    <Button onClick={() => change.mutate(to)} hint={hint} data-job-change={to}>
      {label}
    </Button>
  )
  const all = count(job)
  const failed = change.error ?? remove.error
  return (
    <li className="rounded-tile border border-line bg-raised p-2.5" data-job={job.state} data-done={job.done}>
      <div className="flex items-baseline justify-between gap-3">
        <span className="figures truncate">
          {job.wish.name} {job.range.first}–{job.range.last}
        </span>
        <span className="shrink-0 text-dim">revision {job.revision}</span>
      </div>
      <div
        className="my-2 flex h-1.5 overflow-hidden rounded-full bg-ground"
        role="progressbar"
        aria-label={`Frames of ${job.wish.name}`}
        aria-valuenow={job.done + job.failed}
        aria-valuemin={0}
        aria-valuemax={all}
        aria-valuetext={standing(job)}
      >
        <span className="bg-accent" style={{ width: `${(100 * job.done) / all}%` }} />
        <span className="bg-warn" style={{ width: `${(100 * job.failed) / all}%` }} />
      </div>
      <div className="figures text-dim">{standing(job)}</div>
      {job.wish.folder && <InFolder job={job} folder={job.wish.folder} />}
      {job.done > 0 && (
        <ul className="mt-2 grid grid-cols-8 gap-1">
          {frames
            .filter((f) => f.written)
            .map((f) => (
              <li key={f.frame}>
                <a className="block" href={jobFile(job.id, f.frame)} download title={`Frame ${f.frame}: keep this file`}>
                  <img className="w-full rounded-[3px] bg-ground" src={jobPicture(job.id, f.frame)} alt={`Frame ${f.frame}`} />
                </a>
              </li>
            ))}
        </ul>
      )}
      {troubles(frames).map((t) => (
        <p key={t.sentence} className="mt-2 text-warn">
          {t.frames.length > 1 ? 'Frames' : 'Frame'} {t.frames.slice(0, 8).join(', ')}
          {t.frames.length > 8 && ' …'}: {t.sentence}
        </p>
      ))}
      {failed && (
        <p role="alert" className="mt-2 text-warn">
          {failed.message}
        </p>
      )}
      <div className="mt-2 flex flex-wrap gap-1.5">
        {job.state === 'running' && button('Pause', 'pause', 'Take no more frames; those that are begun are finished')}
        {(job.state === 'running' || job.state === 'paused') && button('Stop', 'stop', 'Leave what is begun, too; it can go on later')}
        {(job.state === 'paused' || job.state === 'stopped') && button('Go on', 'go_on', 'Go on with the frames that are not written')}
        {job.state === 'running' && button('Before others', 'first', 'Write these frames before those of all other ranges')}
        {job.failed > 0 && button('Try again', 'try_again', 'Try the frames again that have failed')}
        {job.done > 0 && (
          <a className="inline-flex h-7 items-center rounded-tile border border-line bg-raised px-2.5 hover:border-dim" href={jobZip(job.id)} download>
            Keep as a zip
          </a>
        )}
        <Button look="quiet" className="ml-auto" hint="Take it off this list; its files go when media are collected" onClick={() => remove.mutate()} data-job-forget>
          Forget
        </Button>
      </div>
    </li>
  )
}
