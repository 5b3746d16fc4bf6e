import { useQuery } from '@tanstack/react-query'
import { draftNow } from '../../api/edits'
import { lightBallQuery, lightQuery } from '../../api/queries'
import type { Element } from '../../api/types'
import { useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'

interface Props {
  shot: ShotOnBench
  element: Element
  like: number | null
}

/** The light of both elements, each on a white ball, and how well it explains their pictures. */
export function LightReport({ shot, element, like }: Props) {
  const other = shot.state.shot.elements.find((e) => e.id === like)
  return (
    <div className="mt-2 flex gap-5" data-light-report>
      <Ball shot={shot} element={element} title={`${element.name} as it is lit`} />
      {other && <Ball shot={shot} element={other} title={`${other.name}, whose light is taken`} />}
    </div>
  )
}

function Ball({ shot, element, title }: { shot: ShotOnBench; element: Element; title: string }) {
  const frame = useFrame(shot.doc)
  // The light is that before any step: only another reading of the passes changes it.
  const key = JSON.stringify([shot.id, element.id, frame, element.passes, element.extracts])
  const ask = { shot: draftNow(shot, frame), element: element.id, frame }
  const found = useQuery(lightQuery(key, ask))
  const ball = useQuery(lightBallQuery(key, ask))
  const albedo = element.passes.some((p) => p.role === 'albedo')
  const percent = (v: number) => `${(v * 100).toFixed(0)} %`
  return (
    <figure className="flex max-w-64 items-center gap-2">
      {ball.data && <img src={ball.data} alt={title} className="size-16" />}
      <figcaption>
        <span className="block">{title}</span>
        {found.data && (
          <span className="block text-dim" data-explained={found.data.explained}>
            explains {percent(found.data.explained)} of its brightness; {percent(1 - found.data.used)} left out as shadow or gloss
          </span>
        )}
        {found.error && <span className="block text-warn">{found.error.message}</span>}
        {found.data && found.data.explained < 0.5 && (
          <span className="block text-warn">
            {albedo ? 'Treat it as a guess: lamps stand near, or much of it shines.' : 'Treat it as a guess: without an albedo pass its own colours count as light.'}
          </span>
        )}
      </figcaption>
    </figure>
  )
}
