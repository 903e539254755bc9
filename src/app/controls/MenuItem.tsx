import type { ComponentProps, MouseEventHandler, ReactNode } from 'react'
import Dropdown from 'react-bootstrap/Dropdown'

interface MenuItemProps {
  children: ReactNode
  onClick?: MouseEventHandler<HTMLElement>
  /** It is the current one of its group. */
  active?: boolean
  disabled?: boolean
  className?: string
  'data-explain'?: string
}

/** An action of a menu. */
export function MenuItem(props: MenuItemProps) {
  return <Dropdown.Item as={ItemButton} {...props} />
}

/** A button that is current where the library would set “selected”, which buttons cannot be. */
function ItemButton({ 'aria-selected': active, ...rest }: ComponentProps<'button'>) {
  return <button type="button" aria-current={active || undefined} {...rest} />
}

/** The heading of a part of a menu. */
export function MenuHeading({ children }: { children: ReactNode }) {
  return <Dropdown.Header aria-level={2}>{children}</Dropdown.Header>
}
