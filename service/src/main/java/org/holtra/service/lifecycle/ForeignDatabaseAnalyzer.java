package org.holtra.service.lifecycle;

import org.flywaydb.core.api.exception.FlywayValidateException;
import org.springframework.boot.diagnostics.AbstractFailureAnalyzer;
import org.springframework.boot.diagnostics.FailureAnalysis;

/** Explains a start that fails because the tables of the database are those of a version this one cannot upgrade. */
class ForeignDatabaseAnalyzer extends AbstractFailureAnalyzer<FlywayValidateException> {

    @Override
    protected FailureAnalysis analyze(Throwable root, FlywayValidateException cause) {
        return new FailureAnalysis(
                "The tables of the database were made by a version of Holtra that this one cannot upgrade.",
                "Start the version that made them, or start this one on an empty database. The demo begins with an empty"
                        + " one by: ./holtra demo --fresh",
                cause);
    }
}
