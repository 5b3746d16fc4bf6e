import { api } from '../../api/client'
import type { Element } from '../../api/types'
import { Button } from '../../ui/Button'
import { FileButton } from '../../ui/FileButton'
import { NumberField } from '../../ui/NumberField'
import { Hint } from '../../ui/Hint'
import { useBench } from '../bench/store'
import { withElement, type ShotOnBench } from '../bench/useShot'

const degrees = (radians: number) => (radians * 180) / Math.PI

/** The camera of an element: its field of view, from the header or typed. */
export function CameraLine({ shot, element }: { shot: ShotOnBench; element: Element }) {
  const { camera } = element
  const { x, y, width, height } = shot.doc.display
  const set = (label: string, focal: number | null) =>
    shot.commit(
      label,
      withElement(shot.doc, element.id, (e) => ({
        ...e,
        camera: focal === null ? null : { centre_x: x + width / 2, centre_y: y + height / 2, ...e.camera, focal },
      })),
    )
  const focalOf = (angle: number) => width / 2 / Math.tan((Math.min(179, Math.max(0.1, angle)) * Math.PI) / 360)
  const fromScene = async (file: File) => {
    try {
      const [first] = await api.cameras(shot.id, file)
      if (first) shot.commit(`Take the camera ${first.name}`, withElement(shot.doc, element.id, (e) => ({ ...e, camera: first.camera })))
    } catch (e) {
      useBench.getState().set({ trouble: e instanceof Error ? e.message : 'Something went wrong; try again.' })
    }
  }
  const scene = <FileButton name="camera" accept=".gltf,.glb" label="From glTF…" look="quiet" onPick={(f) => void fromScene(f)} />
  if (!camera)
    return (
      <span className="flex items-center gap-1">
        <Button look="quiet" onClick={() => set('Set a camera', focalOf(40))} hint="Positions from depth, distance along the ray and world space need to know the camera; a field of view is enough for most">
          No camera: give one…
        </Button>
        {scene}
      </span>
    )
  const angle = degrees(2 * Math.atan(width / 2 / camera.focal))
  // For people who know the lens rather than the angle: the focal length on a sensor 36 mm wide.
  const lens = (camera.focal / width) * 36
  return (
    <span className="flex items-center gap-3 [&_label>span:first-child]:w-auto">
      <NumberField label="Field of view" value={angle} unit="°" step={0.1} reset={angle} min={0.1} max={179} hint="Across the frame" onPreview={() => undefined} onCommit={(v) => set('Set the field of view', focalOf(v))} />
      <NumberField label="Lens" value={lens} unit="mm" step={0.1} reset={lens} min={0.1} max={10000} hint="Focal length on a sensor 36 mm wide" onPreview={() => undefined} onCommit={(v) => set('Set the lens', (v / 36) * width)} />
      {camera.world && <Hint text="The header gives the camera's place, so world space can be turned into camera space"><span className="text-dim">placed</span></Hint>}
      {scene}
    </span>
  )
}
