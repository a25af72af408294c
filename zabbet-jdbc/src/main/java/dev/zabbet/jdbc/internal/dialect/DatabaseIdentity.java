package dev.zabbet.jdbc.internal.dialect;

import java.util.regex.Matcher;

/**
 * Which database a connection leads to, as far as the database itself tells.
 *
 * @param product the database's name for people
 * @param host the server, or "this machine" for a file, as the server sees itself
 * @param database the database's name, or the file
 * @param birth what tells this database from a copy under the same name, as far as the server has such a thing
 * @param url the URL without credentials
 * @param inThisProcess whether it lives in this process's memory and ends with it
 */
public record DatabaseIdentity(
        String product, String host, String database, String birth, String url, boolean inThisProcess) {

    /** Returns another database of the same server. */
    public DatabaseIdentity beside(String name, String itsBirth) {
        String there = url.replaceFirst("^(jdbc:\\w+://[^/?]*)(/[^?]*)?", "$1/" + Matcher.quoteReplacement(name));
        return new DatabaseIdentity(product, host, name, itsBirth, there, inThisProcess);
    }

    /** Returns what is meant, for a sentence. */
    public String describe() {
        return product + " database " + database + (inThisProcess ? " in memory" : " on " + host);
    }

    /** Returns what the mark of a dedicated database is bound to. */
    public String identity() {
        return product + "|" + host + "|" + database + "|" + birth;
    }

    /** Returns the database's name; of a file its last part. */
    public String lastPart() {
        return database.substring(Math.max(database.lastIndexOf('/'), database.lastIndexOf('\\')) + 1);
    }
}
