/** Values in their one form in memory: conversion into it and out of it, comparison, and text. */
@NullMarked
package dev.zabbet.internal.value;

import org.jspecify.annotations.NullMarked;
