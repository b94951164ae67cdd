/** For `npm run migration`, which writes the SQL for a changed schema into server/db/migrations. */
export default {
  dialect: 'postgresql',
  schema: './server/db/schema.ts',
  out: './server/db/migrations',
}
