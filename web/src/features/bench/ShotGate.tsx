import { useEffect, type ReactNode } from 'react'
import { Link } from 'wouter'
import { resetBench } from './store'
import { useShot, type ShotOnBench } from './useShot'

/** A page of one shot: nothing until it is there, a sentence if it cannot be. */
export function ShotGate({ id, children }: { id: string; children: (shot: ShotOnBench) => ReactNode }) {
  const { shot, error } = useShot(id)
  useEffect(() => resetBench, [])
  if (error)
    return (
      <main className="p-8">
        <p className="mb-3">{error.message}</p>
        <Link href="/shots" className="text-accent underline">
          All shots
        </Link>
      </main>
    )
  return shot && children(shot)
}
