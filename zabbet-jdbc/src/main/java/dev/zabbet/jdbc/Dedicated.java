package dev.zabbet.jdbc;

/**
 * A database that is marked as meant for tests.
 *
 * @param database which one, for people: {@code "PostgreSQL database huts_test on 10.0.0.7:5432"}
 */
public record Dedicated(String database) {}
