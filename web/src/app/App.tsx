import { QueryClient, QueryClientProvider, useQuery } from '@tanstack/react-query'
import { Tooltip } from 'radix-ui'
import { useState } from 'react'
import { Redirect, Route, Switch } from 'wouter'
import { Failure } from '../api/client'
import { useListening } from '../api/news'
import { shotsQuery } from '../api/queries'
import { BenchPage } from '../features/bench/BenchPage'
import { IntakePage } from '../features/intake/IntakePage'
import { ShotsPage } from '../features/shots/ShotsPage'

function client() {
  // What the server refused will be refused again; only a server that did not answer is asked twice.
  const retry = (count: number, e: Error) => e instanceof Failure && e.status === 0 && count < 2
  return new QueryClient({ defaultOptions: { queries: { retry } } })
}

/** The shot that changed last, or the list where there is none. */
function Start() {
  const shots = useQuery(shotsQuery)
  if (shots.isPending) return null
  const newest = shots.data?.[0]
  return <Redirect to={newest ? `/shots/${newest.id}` : '/shots'} replace />
}

function Listening() {
  useListening()
  return null
}

export function App() {
  const [queries] = useState(client)
  return (
    <QueryClientProvider client={queries}>
      <Listening />
      <Tooltip.Provider delayDuration={400}>
        <Switch>
          <Route path="/" component={Start} />
          <Route path="/shots" component={ShotsPage} />
          <Route path="/shots/:id/intake">{({ id }) => <IntakePage key={id} id={id} />}</Route>
          <Route path="/shots/:id">{({ id }) => <BenchPage key={id} id={id} />}</Route>
          <Route>
            <Redirect to="/shots" replace />
          </Route>
        </Switch>
      </Tooltip.Provider>
    </QueryClientProvider>
  )
}
