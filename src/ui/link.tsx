/** Links inside the desk. */
import type { ComponentProps } from 'react';
import NextLink from 'next/link';

/**
 * A link inside the desk. Nothing is fetched before it is followed: each page is drawn for who asks, when they ask, and a list of
 * fifty rows would ask for a hundred pages that nobody wants to see.
 */
export const Link = (props: ComponentProps<typeof NextLink>) => <NextLink prefetch={false} {...props} />;
