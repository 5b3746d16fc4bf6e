import { useEffect, useState } from 'react'
import type { Job } from '../../api/types'

/** The jobs of a shot as they come on, while somebody looks. */
export function useJobs(shot: string, open: boolean): Job[] {
  const [jobs, setJobs] = useState<Job[]>([])
  useEffect(() => {
    if (!open) return
    const source = new EventSource(`/api/shots/${encodeURIComponent(shot)}/jobs/news`)
    source.onmessage = (e: MessageEvent<string>) => setJobs(JSON.parse(e.data) as Job[])
    return () => source.close()
  }, [shot, open])
  return jobs
}
