import { useRef, useState } from 'react'
import { bringTable } from '../../api/client'
import type { Brought, ColourSpace } from '../../api/types'
import { useBenchOf } from './store'

const KEPT = 'jugata-tables'

/** Colour tables that were brought in from this browser, the newest first. */
function known(): Brought[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(KEPT) ?? '[]')
    return Array.isArray(list) ? (list as Brought[]).filter((t) => typeof t.name === 'string' && typeof t.media === 'string') : []
  } catch {
    return []
  }
}

const READS: [ColourSpace, string][] = [
  ['srgb', 'sRGB codes'],
  ['rec709', 'Rec.709 codes'],
  ['linear', 'linear light'],
  ['acescg', 'linear ACEScg'],
]

/** A colour table in the place of the view transform. */
export function GradeRow({ select }: { select: string }) {
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
        <select
          className={`${select} min-w-0 grow`}
          data-table
          value={grade?.file.media ?? ''}
          onChange={(e) => {
            if (e.target.value === 'new') file.current?.click()
            else {
              const table = tables.find((t) => t.media === e.target.value)
              set({ grade: table ? { file: table, reads: grade?.reads ?? 'srgb' } : null })
            }
          }}
        >
          <option value="">none</option>
          {tables.map((t) => (
            <option key={t.media} value={t.media}>
              {t.name}
            </option>
          ))}
          <option value="new">Bring in a .cube…</option>
        </select>
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
          <select className={select} value={grade.reads} data-table-reads onChange={(e) => set({ grade: { ...grade, reads: e.target.value as ColourSpace } })}>
            {READS.map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </select>
        </label>
      )}
      {trouble && <p className="text-warn">{trouble}</p>}
    </>
  )
}
