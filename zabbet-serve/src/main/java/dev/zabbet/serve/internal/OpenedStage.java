package dev.zabbet.serve.internal;

import dev.zabbet.Stage;

/** A stage, and the URL by which the application reaches its database. */
public record OpenedStage(Stage stage, String url) {}
