package dev.zabbet.examples.huts;

import java.time.LocalDate;
import org.jspecify.annotations.Nullable;

/** Somebody who stays in huts. */
public record Guest(
        long id,
        String fullName,
        String email,
        @Nullable LocalDate born,
        @Nullable Long emergencyContactId,
        String passwordHash) {}
