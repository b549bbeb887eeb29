/** A new record's id. Unlike the browser's own `randomUUID` it can be had over plain HTTP too, from a phone at the bench. */
export { v4 as newId } from 'uuid'
