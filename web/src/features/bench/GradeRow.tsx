import { useRef, useState } from 'react'
import { bringTable } from '../../api/client'
import type { MediaFile, ColourSpace } from '../../api/types'
import { Select } from '../../ui/Select'
import { useBenchOf } from './store'

const KEPT = 'jugata-tables'

/** Colour tables that were brought in from this browser, the newest first. */
function known(): MediaFile[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(KEPT) ?? '[]')
    return Array.isArray(list) ? (list as MediaFile[]).filter((t) => typeof t.name === 'string' && typeof t.media === 'string') : []
  } catch {
    return []
  }
}

const READS: { value: ColourSpace; label: string }[] = [
  { value: 'srgb', label: 'sRGB codes' },
  { value: 'rec709', label: 'Rec.709 codes' },
  { value: 'linear', label: 'linear light' },
  { value: 'acescg', label: 'linear ACEScg' },
]

/** A colour table in the place of the view transform. */
export function GradeRow() {
  const { grade, set } = useBenchOf('grade', 'set')
  const [tables, setTables] = useState(known)
  const [trouble, setTrouble] = useState<string | null>(null)
  const file = useRef<HTMLInputElement>(null)

  const bring = async (chosen: File) => {
    setTrouble(null)
    try {
      const table = await bringTable(chosen)
      const list = [table, ...tables.filter((t) => t.media !== table.media)].slice(0, 30)
      localStorage.setItem(KEPT, JSON.stringify(list))
      setTables(list)
      set({ grade: { file: table, reads: grade?.reads ?? 'srgb' } })
    } catch (e) {
      setTrouble(e instanceof Error ? e.message : 'The table was not taken.')
    }
  }
  return (
    <>
      <label className="flex items-center gap-2">
        <span className="w-20 shrink-0 text-dim">Table</span>
        <Select
          className="min-w-0 grow"
          label="Table"
          name="table"
          value={grade?.file.media ?? ''}
          options={[{ value: '', label: 'none' }, ...tables.map((t) => ({ value: t.media, label: t.name })), { value: 'new', label: 'Bring in a .cube…' }]}
          onChange={(v) => {
            if (v === 'new') file.current?.click()
            else {
              const table = tables.find((t) => t.media === v)
              set({ grade: table ? { file: table, reads: grade?.reads ?? 'srgb' } : null })
            }
          }}
        />
        <input
          ref={file}
          type="file"
          accept=".cube"
          hidden
          data-table-file
          onChange={(e) => {
            const chosen = e.target.files?.[0]
            if (chosen) void bring(chosen)
            e.target.value = ''
          }}
        />
      </label>
      {grade && (
        <label className="flex items-center gap-2">
          <span className="w-20 shrink-0 text-dim">Input</span>
          <Select label="Input" name="table-reads" className="min-w-0 grow" value={grade.reads} options={READS} onChange={(reads) => set({ grade: { ...grade, reads } })} />
        </label>
      )}
      {trouble && <p className="text-warn">{trouble}</p>}
    </>
  )
}
