import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { create } from 'zustand'
import { shotsQuery } from './queries'
import type { News } from './types'

/** The newest revision that was told of each shot, with what arrived. */
export const useNews = create<{ of: Record<string, News> }>(() => ({ of: {} }))

/** Listens for shots that change because files arrive; the browser connects again by itself. */
export function useListening() {
  const queries = useQueryClient()
  useEffect(() => {
    const source = new EventSource('/api/news')
    source.onmessage = (e: MessageEvent<string>) => {
      const news = JSON.parse(e.data) as News
      // What arrived at another server may be told after what arrived here.
      useNews.setState(({ of }) => ((of[news.shot]?.revision ?? 0) > news.revision ? { of } : { of: { ...of, [news.shot]: news } }))
      void queries.invalidateQueries({ queryKey: shotsQuery.queryKey })
    }
    return () => source.close()
  }, [queries])
}
