import type { ReactNode } from 'react'

/** The heading of a picture beside a stage's sheet. */
export const Head = ({ children }: { children: ReactNode }) => (
  <h2 className="cap" style={{ marginTop: 16 }}>
    {children}
  </h2>
)
