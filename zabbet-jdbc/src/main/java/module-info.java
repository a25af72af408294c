/** Stages over real databases. */
module dev.zabbet.jdbc {
    requires static org.jspecify;
    requires transitive dev.zabbet.core;
    requires transitive java.sql;
    requires static com.h2database;
    requires static org.postgresql.jdbc;
    requires static org.mariadb.jdbc;
    requires static org.checkerframework.checker.qual;
    requires org.apache.commons.compress;
    requires org.tukaani.xz;

    uses java.sql.Driver;

    exports dev.zabbet.jdbc;
    exports dev.zabbet.jdbc.internal.h2 to
            com.h2database;
    exports dev.zabbet.jdbc.internal.store to
            dev.zabbet.junit,
            dev.zabbet.spring;
}
