using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class Parts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double>(
                name: "PartEnd",
                table: "Takes",
                type: "REAL",
                nullable: true);

            migrationBuilder.AddColumn<double>(
                name: "PartStart",
                table: "Takes",
                type: "REAL",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "PartEnd",
                table: "Takes");

            migrationBuilder.DropColumn(
                name: "PartStart",
                table: "Takes");
        }
    }
}
