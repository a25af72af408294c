/**
 * Servers that run from jars on the class path: unpacked once into a folder, one for each user and version, shared by all
 * processes, and stopped when nobody has used them for some minutes.
 *
 * <p>A process that wants the server takes the folder's lock, starts what is not running, and keeps a shared lock on a second file
 * as long as it lives. The server's {@link dev.zabbet.jdbc.internal.server.Keeper} is a process of its own, which outlives the
 * ones that use the server: nobody holds the second lock if it gets that for itself alone. Locks go with their processes, however
 * these end, so that nothing has to be tidied up.
 */
@org.jspecify.annotations.NullMarked
package dev.zabbet.jdbc.internal.server;
