import Button, { type ButtonProps } from 'react-bootstrap/Button'

/** A small choice or action beside others. With `aria-pressed` it can be on or off. */
export function Chip({ className = '', ...rest }: ButtonProps) {
  return <Button variant="chip" className={`tt-chip ${className}`} {...rest} />
}
