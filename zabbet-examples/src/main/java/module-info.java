/** The alpine-huts application and its story. */
module dev.zabbet.examples {
    requires static org.jspecify;
    requires transitive dev.zabbet.core;
    requires transitive dev.zabbet.jdbc;
    requires dev.zabbet.files;

    exports dev.zabbet.examples.huts;
    exports dev.zabbet.examples.story;

    opens dev.zabbet.examples.huts to
            dev.zabbet.core;
    opens db;
}
