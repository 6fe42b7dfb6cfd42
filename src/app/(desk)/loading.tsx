import { Skeleton } from 'antd';

/** What stands in place of a page while it is read. */
export default function Loading() {
  return <Skeleton active title paragraph={{ rows: 8 }} />;
}
