import { Skeleton } from 'antd';

export default function Loading() {
  return <Skeleton active title paragraph={{ rows: 8 }} />;
}
