import { queryOptions } from '@tanstack/react-query'
import { api } from './client'

export const shotsQuery = queryOptions({ queryKey: ['shots'], queryFn: api.shots })

export const kindsQuery = queryOptions({ queryKey: ['kinds'], queryFn: api.kinds, staleTime: Infinity })

export const shotQuery = (id: string) =>
  queryOptions({ queryKey: ['shot', id], queryFn: () => api.shot(id), staleTime: Infinity, refetchOnWindowFocus: 'always' })
