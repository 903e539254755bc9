import Button, { type ButtonProps } from 'react-bootstrap/Button'

/** An action within a text. */
export function TextButton({ className = '', ...rest }: ButtonProps) {
  return <Button variant="link" className={`tt-link ${className}`} {...rest} />
}
