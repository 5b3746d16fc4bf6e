import { useState } from 'react'
import { api } from '../../api/client'
import type { LensLine } from '../../api/types'
import { Button } from '../../ui/Button'
import { useFrame } from '../bench/store'
import type { KeyedBy } from '../time/KeyMark'

interface Props {
  by: KeyedBy
  onFound: (lines: LensLine[]) => void
}

/** Finds a photographed checker in the picture that the step stands on: its rows and columns become lines that can be changed. */
export function CheckerButton({ by, onFound }: Props) {
  const frame = useFrame(by.shot.doc)
  const [said, setSaid] = useState<string | null>(null)
  const [looking, setLooking] = useState(false)
  const [, element, , step] = by.at.split('/')
  const look = async () => {
    setLooking(true)
    setSaid(null)
    try {
      onFound(await api.checker({ shot: { id: by.shot.id, base: by.shot.state.revision, edits: [] }, element: Number(element), step: Number(step), frame }))
    } catch (e) {
      setSaid(e instanceof Error ? e.message : 'The picture could not be looked at; try again.')
    }
    setLooking(false)
  }
  return (
    <>
      <Button look="quiet" data-find-checker disabled={looking || by.shot.saving} onClick={() => void look()} hint="Finds a photographed checker in this frame; its rows and columns become the lines">
        {looking ? 'Looking…' : 'Find a checker'}
      </Button>
      {said && (
        <p className="w-full text-warn" role="alert">
          {said}
        </p>
      )}
    </>
  )
}
