/** Stages in JUnit 5 tests. */
module dev.zabbet.junit {
    requires static org.jspecify;
    requires transitive dev.zabbet.core;
    requires transitive dev.zabbet.jdbc;
    requires transitive dev.zabbet.files;
    requires transitive org.junit.jupiter.api;
    requires org.junit.platform.commons;

    uses dev.zabbet.junit.internal.StageHost;

    exports dev.zabbet.junit;
    exports dev.zabbet.junit.internal to
            dev.zabbet.spring;

    opens dev.zabbet.junit to
            org.junit.platform.commons;
    opens dev.zabbet.junit.internal to
            org.junit.platform.commons;
}
