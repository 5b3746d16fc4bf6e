import type { FileForm, With } from '../../api/types'
import { Choice } from '../../ui/Choice'
import { Hint } from '../../ui/Hint'
import { Select } from '../../ui/Select'
import { FILES, PACKINGS, WITHS, fileOf } from './forms'

interface Props {
  form: FileForm
  /** What is written: the result, other pictures, a depth, other data. */
  of: 'result' | 'picture' | 'depth' | 'data'
  onChange: (form: FileForm) => void
}

/** As what it is written. */
export function FormFields({ form, of, onChange }: Props) {
  const { file, samples } = fileOf(form)
  const about = of === 'depth' ? samples?.depth : of === 'data' ? samples?.data : samples?.about
  const put = (more: Partial<FileForm>) => onChange({ ...form, ...more })
  const turned = (w: With) => (form.with.includes(w) ? form.with.filter((o) => o !== w) : [...form.with, w])
  const isExr = file?.value === 'exr'
  return (
    <>
      <dt className="text-dim">As</dt>
      <dd className="flex flex-wrap gap-2">
        <Choice
          label="File"
          value={file?.value ?? 'exr'}
          options={FILES}
          onChange={(v) => {
            const first = FILES.find((f) => f.value === v)?.samples[0]
            if (first) put({ format: first.value })
          }}
        />
        {file && file.samples.length > 1 && <Choice label="Samples" value={form.format} options={file.samples} onChange={(format) => put({ format })} />}
      </dd>
      <dt />
      <dd className="text-dim">{about}</dd>
      {isExr && (
        <>
          <dt className="text-dim">Packed</dt>
          <dd>
            <Select label="Packed" name="packing" value={form.packing} options={PACKINGS} onChange={(packing) => put({ packing })} />
          </dd>
        </>
      )}
      {isExr && of === 'result' && (
        <>
          <dt className="text-dim">Layers</dt>
          <dd>
            <div className="flex flex-wrap gap-1.5" role="group" aria-label="Layers beside the result">
              {WITHS.map((w) => (
                <Hint key={w.value} text={w.hint}>
                  <button
                    type="button"
                    aria-pressed={form.with.includes(w.value)}
                    onClick={() => put({ with: turned(w.value) })}
                    data-with={w.value}
                    className="h-6 rounded-tile border border-line bg-ground px-2 text-dim hover:border-dim aria-pressed:border-accent aria-pressed:bg-accent-ground aria-pressed:text-text"
                  >
                    {w.label}
                  </button>
                </Hint>
              ))}
            </div>
          </dd>
        </>
      )}
    </>
  )
}
