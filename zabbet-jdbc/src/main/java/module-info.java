/** Stages over real databases. */
module dev.zabbet.jdbc {
    requires static org.jspecify;
    requires transitive dev.zabbet.core;
    requires transitive java.sql;

    exports dev.zabbet.jdbc;
}
