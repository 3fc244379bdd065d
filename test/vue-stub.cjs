/** Stands in for a component where only what is around it is tested. */
module.exports = { default: {} };
