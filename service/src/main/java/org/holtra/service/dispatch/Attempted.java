package org.holtra.service.dispatch;

import java.util.Map;
import org.holtra.core.delivery.Verdict;

/**
 * What an attempt came to.
 *
 * @param request what was sent, in the words of the outlet's kind, with secrets masked
 * @param status the number the destination answered with, or null
 * @param answer the beginning of what it answered, or null if nothing came
 * @param cause a short word for grouping what failed alike
 */
public record Attempted(Verdict verdict, Map<String, Object> request, Integer status, byte[] answer, String cause) {}
