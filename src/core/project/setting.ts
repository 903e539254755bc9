import { z } from 'zod'

/** The description of every setting; labels, limits, errors and the docs are read from here. */
export interface SettingText {
  label: string
  explain: string
  unit?: string
}

type Range = { min: number; max: number }

const described = <T extends z.ZodType>(schema: T, text: SettingText): T => schema.meta({ ...text }) as T

/** A number within a closed range, with its unit. */
export const amount = (text: SettingText & Range & { default: number }) =>
  described(z.number().min(text.min).max(text.max).default(text.default), pick(text))

/** A whole number within a closed range. */
export const whole = (text: SettingText & Range & { default: number }) =>
  described(z.int().min(text.min).max(text.max).default(text.default), pick(text))

/** A number or `null`, which means none. */
export const amountOrNone = (text: SettingText & Range) =>
  described(z.number().min(text.min).max(text.max).nullable().default(null), pick(text))

/** One length per edge or corner, clockwise from the top (left); by default each is `default`. */
export const four = (text: SettingText & Range & { default: number }) => {
  const length = z.number().min(text.min).max(text.max)
  const { default: all } = text
  return described(z.tuple([length, length, length, length]).default([all, all, all, all]), pick(text))
}

export const choice = <const T extends readonly [string, ...string[]]>(
  options: T,
  text: SettingText & { default: T[number] },
) => described(z.enum(options).default(text.default as never), pick(text))

export const flag = (text: SettingText & { default: boolean }) =>
  described(z.boolean().default(text.default), pick(text))

export const words = (text: SettingText & { default: string }) =>
  described(z.string().max(10_000).default(text.default), pick(text))

/** A JSON Pointer (RFC 6901) relative to an item. */
export const pointer = () =>
  z
    .string()
    .max(1000)
    .regex(/^(\/([^~]|~[01])*)?$/, { error: 'a JSON Pointer, such as /photo' })

export const pointerOrNone = (fallback: string | null, text: SettingText) =>
  described(pointer().nullable().default(fallback), text)

/** An object whose unknown fields are kept (and warned about, see parse.ts). */
export const fields = <S extends z.core.$ZodLooseShape>(shape: S) => z.looseObject(shape)

/** As `fields`, with a default made of its members' defaults. */
export const group = <S extends z.core.$ZodLooseShape>(shape: S) => z.looseObject(shape).prefault({} as never)

function pick(text: SettingText & Partial<Range>): SettingText {
  const { label, explain, unit } = text
  return unit === undefined ? { label, explain } : { label, explain, unit }
}
