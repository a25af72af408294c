/** Zabbet's core: schema, rows, factories, fakes, expectations and the stage. */
module dev.zabbet.core {
    requires static transitive org.jspecify;
    requires transitive org.opentest4j;
    requires transitive java.sql;

    exports dev.zabbet;
    exports dev.zabbet.error;
    exports dev.zabbet.type;
    exports dev.zabbet.schema;
    exports dev.zabbet.row;
    exports dev.zabbet.store;
    exports dev.zabbet.value;
    exports dev.zabbet.factory;
    exports dev.zabbet.expect;
    exports dev.zabbet.fake;
    exports dev.zabbet.rule;
    exports dev.zabbet.seed;
    exports dev.zabbet.extract;
    exports dev.zabbet.internal.mask to
            dev.zabbet.jdbc;
    exports dev.zabbet.internal.text to
            dev.zabbet.jdbc,
            dev.zabbet.files,
            dev.zabbet.junit,
            dev.zabbet.spring,
            dev.zabbet.cli,
            dev.zabbet.serve;
    exports dev.zabbet.internal.type to
            dev.zabbet.spring;
    exports dev.zabbet.internal.mapping to
            dev.zabbet.spring;
    exports dev.zabbet.internal.story to
            dev.zabbet.jdbc,
            dev.zabbet.junit,
            dev.zabbet.spring;
    exports dev.zabbet.internal.store to
            dev.zabbet.jdbc;
    exports dev.zabbet.internal.document to
            dev.zabbet.jdbc,
            dev.zabbet.files,
            dev.zabbet.cli,
            dev.zabbet.serve;
    exports dev.zabbet.internal.report to
            dev.zabbet.jdbc,
            dev.zabbet.files,
            dev.zabbet.junit,
            dev.zabbet.cli,
            dev.zabbet.serve;
    exports dev.zabbet.internal.fake to
            dev.zabbet.spring;
    exports dev.zabbet.internal.value to
            dev.zabbet.spring,
            dev.zabbet.junit,
            dev.zabbet.jdbc,
            dev.zabbet.files,
            dev.zabbet.cli,
            dev.zabbet.serve;

    uses dev.zabbet.row.RowNotation;
    uses dev.zabbet.internal.fake.FakeSupport;
    uses dev.zabbet.seed.SeedNotation;
}
