/** The parts of JSON Schema that the deck reads, with our own `x-` notes. */
export interface PropertySchema {
  properties?: Record<string, PropertySchema>
  items?: PropertySchema
  type?: string | string[]
  $ref?: string
  description?: string
  default?: unknown
  oneOf?: { const?: string; description?: string }[]
  enum?: string[]
  'x-label'?: string
  'x-unit'?: string
  'x-meaning'?: string
  'x-group'?: string
  'x-slider'?: [number, number]
  'x-step'?: number
  /** Values of other parameters with which this one plays a part. */
  'x-when'?: Record<string, string | string[] | null>
}

export interface ObjectSchema {
  properties?: Record<string, PropertySchema>
  $defs?: Record<string, PropertySchema>
}
