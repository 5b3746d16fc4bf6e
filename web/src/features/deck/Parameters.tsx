import type { ReactNode } from 'react'
import type { ObjectSchema } from '../../api/schema'
import { optionsOf, ParameterControl, plays } from './controls'

interface Props {
  schema: ObjectSchema
  values: Record<string, unknown>
  defaults: Record<string, unknown>
  /** More at the end of a group. */
  after?: (group: string) => ReactNode
  onPreview: (name: string, value: unknown) => void
  onCommit: (name: string, value: unknown, label: string) => void
}

/** Controls of all parameters that play a part, by group. */
export function Parameters({ schema, values, defaults, after, onPreview, onCommit }: Props) {
  const properties = Object.entries(schema.properties ?? {}).filter(([, s]) => s['x-meaning'] !== 'hidden' && plays(s, values))
  const groups = [...new Set(properties.map(([, s]) => s['x-group'] ?? ''))]
  return (
    <div className="flex flex-wrap gap-x-4 gap-y-1">
      {groups.map((group) => (
        <div key={group} className="flex flex-col gap-1">
          {properties
            .filter(([, s]) => (s['x-group'] ?? '') === group)
            .map(([name, property]) => (
              <ParameterControl
                key={name}
                name={name}
                schema={property}
                root={schema}
                value={values[name]}
                reset={defaults[name]}
                options={optionsOf(property, schema)}
                onPreview={(v) => onPreview(name, v)}
                onCommit={(v) => onCommit(name, v, `Set ${(property['x-label'] ?? name).toLowerCase()}`)}
              />
            ))}
          {after?.(group)}
        </div>
      ))}
    </div>
  )
}
