/** The columns of a list as a person has chosen them. */
export const lists = `
create table list_choice (
  user_id text not null, list text not null, columns text[] not null, primary key (user_id, list)
);
`;
